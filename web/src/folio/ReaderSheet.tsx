import { useState } from "react";
import type { Schemas } from "../shared/api/client";
import { list } from "../shared/words";

interface SheetProps {
  page: Schemas["ReadingPage"];
  question: Schemas["ReadingQuestion"] | undefined;
  /** All pictures as they came, while the key is held. */
  asCame: boolean;
  deeds?: React.ReactNode;
  /** Lies over the picture where it is upright and straight. */
  over?: React.ReactNode;
  keep: (element: HTMLElement | null) => void;
}

/** One page. Turning and darkening it is for these eyes only: the edition stays as it is. */
export function ReaderSheet({ page, question, asCame, deeds, over, keep }: SheetProps) {
  const [turn, setTurn] = useState(0);
  const [dark, setDark] = useState(false);
  const [came, setCame] = useState(false);
  const spot = question?.spots.find((one) => one.page === page.number);
  const whole = (came || asCame) && page.source !== "";
  const sideways = turn % 180 !== 0;
  return (
    <figure ref={keep} className={spot ? "reader-sheet reader-answer" : "reader-sheet"}>
      <figcaption>
        <span>
          Page {page.number}
          <span className="soft"> {page.labels.join(" ") || (page.loose ? "loose page" : "nothing placed")}</span>
        </span>
        {page.image && (
          <span className="reader-sheet-tools" role="group" aria-label={`How page ${page.number} is shown`}>
            <button type="button" className="plain" onClick={() => setTurn((now) => (now + 90) % 360)}>
              Turn
            </button>
            <button type="button" className="plain" aria-pressed={dark} onClick={() => setDark(!dark)}>
              Darker ink
            </button>
            {page.source && (
              <button type="button" className="plain" aria-pressed={came} onClick={() => setCame(!came)}>
                As it came
              </button>
            )}
            {page.original_id !== null && (
              <a href={`/api/originals/${page.original_id}/file`} download>
                Original
              </a>
            )}
          </span>
        )}
        {page.other_number && <strong className="reader-other"> carries number {page.other_number}, which is another student’s</strong>}
        {page.note && <span className="reader-note">“{page.note}”</span>}
        {deeds && <div className="reader-deeds">{deeds}</div>}
      </figcaption>
      <div style={whole ? undefined : { width: `${100 * page.scale}%`, marginInline: "auto", ...(sideways && { aspectRatio: `${page.height} / ${page.width}`, containerType: "inline-size" }) }}>
        {page.image ? (
          <img
            src={whole ? page.source : page.image}
            width={whole ? undefined : page.width}
            height={whole ? undefined : page.height}
            className={dark ? "reader-dark" : undefined}
            style={whole ? undefined : turned(turn, page)}
            alt={[`Page ${page.number}${page.labels.length > 0 ? `, answers ${list(page.labels)}` : ""}${whole ? ", as it came" : ""}`, page.description].filter(Boolean).join(": ")}
            loading={page.number <= 2 || spot ? "eager" : "lazy"}
          />
        ) : (
          <p className="reader-waiting soft">Safe on the server. Being straightened …</p>
        )}
        {turn === 0 && !whole && page.image && over}
        {spot && question && turn === 0 && !whole && (
          <span className={spot.by ? "reader-flag reader-flag-by-reader" : "reader-flag"} style={{ top: `${(spot.top ?? 0) * 100}%` }}>
            {question.label}
            {spot.by && <span className="unseen"> placed by {spot.by}</span>}
          </span>
        )}
      </div>
    </figure>
  );
}

/** A picture that lies sideways is as high as its column is wide, turned about a corner and moved back into its place. */
function turned(turn: number, { width, height }: { width: number; height: number }): React.CSSProperties | undefined {
  if (turn === 0) return undefined;
  if (turn === 180) return { transform: "rotate(180deg)" };
  const wide = `${(width / height) * 100}cqw`;
  const back = turn === 90 ? "rotate(90deg) translateY(-100%)" : "rotate(-90deg) translateX(-100%)";
  return { width: wide, transformOrigin: "top left", transform: back };
}

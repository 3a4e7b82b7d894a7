import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../shared/api/client";
import { count, list } from "../shared/words";
import "./Reader.css";

type Folio = Schemas["ReadingOut"];
type Question = Schemas["ReadingQuestion"];

/** A folio to leaf through by question: choosing one brings the page that answers it, at its spot. */
export function Reader({ folio }: { folio: Folio }) {
  const [at, setAt] = useState(() => Math.max(0, folio.questions.findIndex((one) => one.spots.length > 0)));
  const [visit, setVisit] = useState(0);
  const sheets = useRef(new Map<number, HTMLElement>());
  const scroller = useRef<HTMLDivElement>(null);
  const question = folio.questions[at];

  const go = (to: number) => {
    if (to < 0 || to >= folio.questions.length) return;
    setAt(to);
    setVisit((times) => times + 1);
  };
  useEffect(() => {
    const spot = question?.spots[0];
    const sheet = spot && sheets.current.get(spot.page);
    if (!spot || !sheet || !scroller.current) return;
    const above = Math.max(0, (spot.top ?? 0) * sheet.offsetHeight - 24);
    scroller.current.scrollTo({ top: sheet.offsetTop + above - scroller.current.offsetTop });
  }, [question, visit]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const inField = event.target instanceof HTMLElement && event.target.matches("input, textarea, [role=dialog] *");
      if (inField || event.altKey || event.ctrlKey || event.metaKey) return;
      const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (by === undefined) return;
      event.preventDefault();
      go(at + by);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
  return (
    <div className="reader">
      <nav aria-label="Questions">
        <ol>
          {folio.questions.map((one, number) => (
            <li key={one.label}>
              <button type="button" aria-current={number === at} className="reader-question" onClick={() => go(number)}>
                <strong>{one.label}</strong>
                <span className={one.state === "open" ? "red" : "soft"}>{where(one)}</span>
              </button>
            </li>
          ))}
        </ol>
      </nav>
      <div className="reader-view">
        <div className="reader-bar">
          <button type="button" className="plain" disabled={at === 0} onClick={() => go(at - 1)} title="←">
            Question before
          </button>
          <p aria-live="polite">
            {question && (
              <>
                <strong>{question.label}</strong> {question.title} · {where(question)}
              </>
            )}
          </p>
          <button
            type="button"
            className="plain"
            disabled={at === folio.questions.length - 1}
            onClick={() => go(at + 1)}
            title="→"
          >
            Question after
          </button>
        </div>
        {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- a scrolling region must be reachable by key */}
        <div className="reader-pages" ref={scroller} tabIndex={0} role="region" aria-label="Pages">
          {folio.pages.map((page) => (
            <Sheet
              key={page.number}
              page={page}
              question={question}
              keep={(element) => {
                if (element) sheets.current.set(page.number, element);
                else sheets.current.delete(page.number);
              }}
            />
          ))}
        </div>
      </div>
    </div>
  );
}

interface SheetProps {
  page: Schemas["ReadingPage"];
  question: Question | undefined;
  keep: (element: HTMLElement | null) => void;
}

function Sheet({ page, question, keep }: SheetProps) {
  const spot = question?.spots.find((one) => one.page === page.number);
  return (
    <figure ref={keep} className={spot ? "reader-sheet reader-answer" : "reader-sheet"}>
      <figcaption>
        Page {page.number}
        <span className="soft"> {page.labels.join(" ") || (page.loose ? "loose page" : "nothing placed")}</span>
        {page.other_number && <strong className="reader-other"> carries number {page.other_number}, which is another student’s</strong>}
        {page.note && <span className="reader-note">“{page.note}”</span>}
      </figcaption>
      <div>
        {page.image ? (
          <img
            src={page.image}
            width={page.width}
            height={page.height}
            alt={`Page ${page.number}${page.labels.length > 0 ? `, answers ${list(page.labels)}` : ""}`}
            loading={page.number <= 2 || spot ? "eager" : "lazy"}
          />
        ) : (
          <p className="reader-waiting soft">Safe on the server. Being straightened …</p>
        )}
        {spot && question && (
          <span className="reader-flag" style={{ top: `${(spot.top ?? 0) * 100}%` }}>
            {question.label}
          </span>
        )}
      </div>
    </figure>
  );
}

function where(question: Question): string {
  if (question.state === "left_blank") return "left blank";
  if (question.state === "open") return "no page";
  if (question.state === "not_needed") return "not needed";
  const pages = question.spots.map((spot) => String(spot.page));
  return pages.length === 1 ? `page ${pages[0]}` : `${count(pages.length, "page")}: ${pages.join(", ")}`;
}

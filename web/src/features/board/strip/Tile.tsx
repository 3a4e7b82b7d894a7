import { useSortable } from "@dnd-kit/sortable";
import { memo, useEffect, useRef } from "react";
import type { Upload } from "../../../shared/sending/UploadQueue";
import { clockTime } from "../../../shared/time";

interface Props {
  id: number;
  preview: string;
  number: number;
  labels: string;
  loose: boolean;
  /** In two words; empty where there is none. */
  advice: string;
  noted: boolean;
  chosen: boolean;
  marked: boolean;
  tileActions: { choose: (id: number, event: React.MouseEvent) => void; key: (event: React.KeyboardEvent) => void };
}

/** One page of the strip. */
export const Tile = memo(function Tile({ id, preview, number, labels, loose, advice, noted, chosen, marked, tileActions }: Props) {
  const { setNodeRef, transform, transition, listeners, isDragging } = useSortable({ id });
  const button = useRef<HTMLButtonElement>(null);
  const atFirst = useRef(number === 1); // the first page of a new strip is in view
  useEffect(() => {
    const inView = atFirst.current;
    atFirst.current = false;
    if (!chosen) return;
    if (button.current && !inView) bringIntoView(button.current);
    // Whoever walks the strip by keyboard takes the focus along.
    if (document.activeElement?.closest(".strip")) button.current?.focus({ preventScroll: true });
  }, [chosen]);
  const moved = transform ? `translate(${Math.round(transform.x)}px, ${Math.round(transform.y)}px)` : undefined;
  const folded = labels === "" && !loose;
  const words = labels || (loose ? "loose page" : "not placed");
  const said = [words, advice, noted && "with a word to the reader", marked && "chosen together with others"];
  const looks = ["tile-sheet", chosen && "tile-chosen", marked && "tile-marked", folded && "tile-folded"];
  return (
    <li ref={setNodeRef} className={isDragging ? "tile tile-dragged" : "tile"} style={{ transform: moved, transition }}>
      <button
        ref={button}
        type="button"
        className={looks.filter(Boolean).join(" ")}
        data-page={id}
        aria-label={`Page ${number}, ${said.filter(Boolean).join(", ")}`}
        aria-current={chosen}
        tabIndex={chosen ? 0 : -1}
        {...listeners}
        onClick={(event) => tileActions.choose(id, event)}
        onKeyDown={tileActions.key}
      >
        {preview ? (
          <img src={preview} alt="" draggable={false} loading="lazy" decoding="async" />
        ) : (
          <i className="tile-waiting" aria-hidden="true" />
        )}
      </button>
      {/* The button says all of this. */}
      <strong aria-hidden="true">
        {number}
        {noted && <i className="tile-noted" title="With a word to the reader" />}
      </strong>
      <span className={folded ? "not-yet" : "soft"} aria-hidden="true">
        {words}
      </span>
      {advice && (
        <span className="red" aria-hidden="true">
          {advice}
        </span>
      )}
    </li>
  );
});

/** Where it is not seen whole, to the middle: walking on then moves the strip once in several steps, and shows what comes.
 *  Only the strip moves: the window may be scrolled to what is worked on. */
function bringIntoView(tile: HTMLElement) {
  const strip = tile.closest(".strip-scroll");
  if (!strip) return;
  const view = strip.getBoundingClientRect();
  const head = tile.closest(".strip-row")?.querySelector(".strip-head")?.getBoundingClientRect().width ?? 0;
  const { left, right } = tile.getBoundingClientRect();
  if (left >= view.left + head && right <= view.right) return;
  strip.scrollBy({ left: (left + right) / 2 - (view.left + head + view.right) / 2 });
}

/** A file that is on its way to being a page. */
export function ComingTile({ upload, timeZone }: { upload: Upload; timeZone: string }) {
  return (
    <li className="tile tile-coming">
      <span className="tile-sheet">
        <span className="tile-name">{upload.file.name}</span>
        <progress max={1} value={upload.share} aria-label={`${upload.file.name} on its way`} />
      </span>
      <strong>·</strong>
      <span className={upload.waitsFor ? "red" : "soft"}>
        {upload.state}
        {upload.waitsFor && `, waiting for ${upload.waitsFor}`}
      </span>
      {upload.promised && <span>promised {clockTime(upload.promised, timeZone, true)}</span>}
      {!upload.kept && upload.state !== "safe" && <span className="red">keep this page open</span>}
    </li>
  );
}

import type { BoardData } from "../../folio/useBoard";
import { labelWords } from "../../folio/labelWords";
import { count, list } from "../../shared/words";

interface SheetsToldProps {
  board: BoardData;
  /** The pages in their order. */
  ids: readonly number[];
  mayPlace: boolean;
  onLeaveBlank: (questions: string[]) => void;
}

/** Of printed sheets: which pages of the paper are not here, and which answers seem empty. */
export function SheetsTold({ board, ids, mayPlace, onLeaveBlank }: SheetsToldProps) {
  const { sheets, questions } = board;
  if (!sheets || !mayPlace) return null;
  const number = (page: number) => ids.indexOf(page) + 1;
  const { missing, empty, twice, unknown, others } = sheets;
  if (sheets.waiting > 0)
    return (
      <section className="suggested" aria-label="Printed sheets">
        <p className="suggested-words">{count(sheets.waiting, "page")} still to be told from the printed paper …</p>
      </section>
    );
  if (missing.length + empty.length + twice.length + unknown.length + others.length === 0)
    return (
      <section className="suggested" aria-label="Printed sheets">
        <p className="suggested-words">All {count(sheets.pages, "page")} of the printed paper with answers are here, in order and placed.</p>
      </section>
    );
  return (
    <section className="suggested" aria-label="Printed sheets">
      {missing.length > 0 && (
        <p className="suggested-words">
          <strong>
            {missing.length === 1 ? "Page" : "Pages"} {list(missing.map(String))} of the printed paper {missing.length === 1 ? "is" : "are"} not here.
          </strong>{" "}
          Photograph {missing.length === 1 ? "it" : "them"} too.
        </p>
      )}
      {empty.length > 0 && (
        <p>
          <span>
            <strong>{labelWords(empty, questions)}</strong> {empty.length === 1 ? "seems" : "seem"} empty: nothing was seen in the space for{" "}
            {empty.length === 1 ? "it" : "them"}.
          </span>
          <button type="button" className="button button-small" onClick={() => onLeaveBlank(empty)}>
            Left blank on purpose
          </button>
        </p>
      )}
      {twice.map((pages) => (
        <p key={pages.join()} className="suggested-words">
          Pages {list(pages.map((page) => String(number(page))))} are the same page of the paper. Remove the worse one.
        </p>
      ))}
      {unknown.length > 0 && (
        <p className="suggested-words">
          {unknown.length === 1 ? "Page" : "Pages"} {list(unknown.map((page) => String(number(page))))}: not of this printed paper, it seems. An extra
          sheet is placed by hand.
        </p>
      )}
      {others.length > 0 && (
        <p className="suggested-words">
          <strong>{others.length === 1 ? "Page" : "Pages"} {list(others.map((page) => String(number(page))))}</strong> was printed for another student. Is it yours?
        </p>
      )}
    </section>
  );
}

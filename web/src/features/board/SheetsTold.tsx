import type { Arrangement } from "../../folio/arrangement";
import type { BoardData } from "../../folio/useBoard";
import { labelWords } from "../../folio/labelWords";
import { betterWords, stillTwice, type Twice, twiceWords } from "../../folio/sheetTwice";
import { count, list } from "../../shared/words";

interface SheetsToldProps {
  board: BoardData;
  arrangement: Arrangement;
  /** The pages in their order. */
  ids: readonly number[];
  mayPlace: boolean;
  onLeaveBlank: (questions: string[]) => void;
  onKeepOnly: (better: number, lesser: number[]) => void;
  onKeepAll: (pages: number[]) => void;
}

/** Of printed sheets: which pages of the paper are not here, and which answers seem empty. */
export function SheetsTold({ board, arrangement, ids, mayPlace, onLeaveBlank, onKeepOnly, onKeepAll }: SheetsToldProps) {
  const { sheets, questions } = board;
  if (!sheets || !mayPlace) return null;
  const number = (page: number) => ids.indexOf(page) + 1;
  const { missing, empty, unknown, others } = sheets;
  const twice = stillTwice(sheets.twice, arrangement);
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
      {twice.map((one) => (
        <TakenTwice key={one.pages.join()} {...{ twice: one, number, onKeepOnly, onKeepAll }} />
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

interface TakenTwiceProps extends Pick<SheetsToldProps, "onKeepOnly" | "onKeepAll"> {
  twice: Twice;
  number: (page: number) => number;
}

function TakenTwice({ twice, number, onKeepOnly, onKeepAll }: TakenTwiceProps) {
  const { pages, better } = twice;
  return (
    <p>
      <span>
        <strong>{twiceWords(twice, number)}.</strong> {betterWords(twice, number)}
      </span>
      {better !== null && (
        <button type="button" className="button button-small" onClick={() => onKeepOnly(better, pages.filter((page) => page !== better))}>
          Keep page {number(better)} only
        </button>
      )}
      <button type="button" className="plain" onClick={() => onKeepAll(pages)}>
        {pages.length === 2 ? "Keep both" : "Keep them all"}
      </button>
    </p>
  );
}

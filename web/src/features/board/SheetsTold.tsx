import type { Schemas } from "../../shared/api/client";
import type { Arrangement } from "../../folio/arrangement";
import type { BoardData } from "../../folio/useBoard";
import { labelWords } from "../../folio/labelWords";
import { betterWords, stillTwice, type Twice, twiceWords } from "../../folio/sheetTwice";
import type { Suggestion } from "../../folio/useSuggestion";
import { count, list } from "../../shared/words";

interface SheetsToldProps {
  board: BoardData;
  arrangement: Arrangement;
  /** The pages in their order. */
  ids: readonly number[];
  small: boolean;
  /** Pages in whose boxes another student's number is read. */
  numbered: Suggestion["others"];
  mayPlace: boolean;
  onLeaveBlank: (questions: string[]) => void;
  onKeepOnly: (better: number, worse: number[]) => void;
  onKeepAll: (pages: number[]) => void;
}

/** Of printed sheets: which pages of the paper are not here, and which answers seem empty. */
export function SheetsTold({ board, arrangement, ids, small, numbered, mayPlace, onLeaveBlank, onKeepOnly, onKeepAll }: SheetsToldProps) {
  const { sheets, questions } = board;
  if (!sheets || !mayPlace) return null;
  const number = (page: number) => ids.indexOf(page) + 1;
  const { missing, empty } = sheets;
  const here = (pages: readonly number[]) => pages.filter((page) => ids.includes(page));
  const [unknown, others] = [here(sheets.unknown), here(sheets.others)];
  const twice = stillTwice(sheets.twice, arrangement);
  if (sheets.waiting > 0)
    return (
      <section className="suggested" aria-label="Printed sheets">
        <p className="suggested-words">{count(sheets.waiting, "page")} still to be told from the printed paper …</p>
      </section>
    );
  if (missing.length + empty.length + twice.length + unknown.length + others.length + numbered.length === 0)
    return (
      <section className="suggested" aria-label="Printed sheets">
        <p className="suggested-words">All {count(sheets.pages, "page")} of the printed paper with answers are here, in order and placed.</p>
      </section>
    );
  const blurred = unknown.filter((page) => board.pages.some((one) => one.id === page && one.advice.some(({ code }) => BLURRED.includes(code))));
  const strange = unknown.filter((page) => !blurred.includes(page));
  const told = [
    missing.length > 0 && (
      <p key="missing" className="suggested-words">
        <strong>
          {pagesOf(missing)} of the printed paper {missing.length === 1 ? "is" : "are"} not here.
        </strong>{" "}
        Photograph {missing.length === 1 ? "it" : "them"} too.
      </p>
    ),
    ...twice.map((one) => <TakenTwice key={one.pages.join()} {...{ twice: one, number, onKeepOnly, onKeepAll }} />),
    others.length > 0 && (
      <p key="others" className="suggested-words">
        <strong>{pagesOf(others.map(number))}</strong> {others.length === 1 ? "was" : "were"} printed for another student. Is it yours?
      </p>
    ),
    numbered.length > 0 && (
      <p key="numbered" className="suggested-words">
        <strong>{list(numbered.map((one) => `Page ${number(one.page)} carries number ${one.says}`))}</strong>, which is another student’s. Is it yours?
      </p>
    ),
    blurred.length > 0 && (
      <p key="blurred" className="suggested-words">
        <strong>{pagesOf(blurred.map(number))}</strong> {blurred.length === 1 ? "is" : "are"} too blurred to tell which page of the printed paper{" "}
        {blurred.length === 1 ? "it is. Take it" : "they are. Take them"} again.
      </p>
    ),
    empty.length > 0 && (
      <p key="empty">
        <span>
          <strong>{labelWords(empty, questions)}</strong> {empty.length === 1 ? "seems" : "seem"} empty: nothing was seen in the space for{" "}
          {empty.length === 1 ? "it" : "them"}.
        </span>
        <button type="button" className="button button-small" onClick={() => onLeaveBlank(empty)}>
          Left blank on purpose
        </button>
      </p>
    ),
    strange.length > 0 && (
      <p key="strange" className="suggested-words">
        {pagesOf(strange.map(number))}: not of this printed paper, it seems. An extra sheet is placed by hand.
      </p>
    ),
  ].filter(Boolean);
  const atOnce = small ? 1 : told.length; // beside them the page itself is to be seen
  return (
    <section className="suggested" aria-label="Printed sheets">
      {told.slice(0, atOnce)}
      {told.length > atOnce && (
        <details>
          <summary>{told.length - atOnce} more about the printed sheets</summary>
          {told.slice(atOnce)}
        </details>
      )}
    </section>
  );
}

/** Advice by which a page's print may not be told. */
const BLURRED: readonly Schemas["Advice"][] = ["out_of_focus", "motion_blur", "damaged", "low_resolution"];

function pagesOf(numbers: readonly number[]): string {
  return `${numbers.length === 1 ? "Page" : "Pages"} ${list(numbers.map(String))}`;
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

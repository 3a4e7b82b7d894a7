import { memo, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../../shared/api/client";
import { isOnPages, onScreen, takesPages } from "../../../folio/answers/content";
import type { GivenQuestion } from "../../../folio/answers/useAnswers";
import { useLatest } from "../../../shared/useLatest";
import { type Arrangement, choiceWords, isPlaced, missingKinds, openQuestions, pagesOf } from "../../../folio/arrangement";
import "./Ribbons.css";
import { labelWords } from "../../../folio/labelWords";
import { draggedColumns, draggedRows, isInDrag, runs } from "./cellDrag";
import { cellAt, useCellDrag } from "./useCellDrag";

type Question = GivenQuestion;
interface Props {
  questions: Question[];
  /** What is answered on the screen, in a few words, by question; "" while nothing is. */
  answers: Readonly<Record<string, string>>;
  arrangement: Arrangement;
  /** What the reading proposes, not confirmed yet. */
  proposed: readonly Schemas["ProposedPlaceOut"][];
  /** Of a column, with the gap after it. */
  columnPx: number;
  /** The same object at every drawing. */
  weaving: Weaving;
}
/** What the rows do to the board. */
export interface Weaving {
  /** The place of the chosen page, from 0. */
  at: () => number;
  place: (questions: string[], pages: number[], on: boolean) => void;
  leaveBlank: (questions: string[], blank: boolean) => void;
  openAnswer: (question: string) => void;
  /** A row's head is dragged away: towards a page. */
  dragHead: (questions: string[], event: React.PointerEvent) => void;
}
const NOT_ANSWERED = "not answered";
/** The least width of the mark of an answer on the screen, where there are no pages to lie under. */
const MARK_PX = 260;

/** One question without parts, one part, or a folded question with all its parts. */
interface Line {
  ids: string[];
  questions: Question[];
  first: boolean;
  foldable: boolean;
}

/** One row a question: its ribbon lies under the pages that answer it. Dragging over rows and columns places many at once. */
export const Ribbons = memo(function Ribbons({ questions, answers, arrangement, proposed, columnPx, weaving }: Props) {
  const [folded, setFolded] = useState<readonly string[]>([]);
  const field = useRef<HTMLDivElement>(null);
  const lines = linesOf(questions, folded);
  const pages = pagesOf(arrangement);
  const latest = useLatest({ arrangement, lines, pages });
  const { drag, begin } = useCellDrag(field, (done) => {
    const [top, bottom] = draggedRows(done);
    const [left, right] = draggedColumns(done);
    const dragged = lines.slice(top, bottom + 1).flatMap((line) => line.questions.filter(takesPages).map((one) => one.id));
    weaving.place(dragged, pages.slice(left, right + 1), done.on);
  });
  const rowActions = useMemo((): RowActions => {
    const isOn = (row: number, column: number) => {
      const { lines: all, pages: order, arrangement: now } = latest.current;
      return all[row]?.ids.some((id) => isPlaced(now, id, order[column] ?? NaN)) ?? false;
    };
    const questionsOf = (row: number) => latest.current.lines[row]?.ids ?? [];
    return {
      fold: (question) =>
        setFolded((now) => (now.includes(question) ? now.filter((one) => one !== question) : [...now, question])),
      dragCells: (event) => {
        const cell = cellAt(event.clientX, event.clientY);
        if (cell && event.button === 0) begin({ from: cell, to: cell, on: !isOn(cell.row, cell.column) });
      },
      toggle: (row) => {
        const at = weaving.at();
        const page = latest.current.pages[at];
        if (page !== undefined) weaving.place(questionsOf(row), [page], !isOn(row, at));
      },
      leaveBlank: (row, blank) => weaving.leaveBlank(questionsOf(row), blank),
      openAnswer: (row) => {
        const [first] = latest.current.lines[row]?.questions.filter((one) => onScreen(one).length > 0) ?? [];
        if (first) weaving.openAnswer(first.id);
      },
      dragHead: (row, event) => weaving.dragHead(questionsOf(row), event),
    };
  }, [begin, latest, weaving]);
  // Of one drawing, looked up often: each question's columns.
  const column = new Map(pages.map((page, at) => [page, at]));
  const columnsOf = (id: string) =>
    (arrangement.placements[id] ?? []).flatMap((spot) => column.get(spot.page) ?? []);
  const stillOpen = new Set(openQuestions(arrangement, questions).map((one) => one.id));
  const rows = lines.map((line, row): RowProps => {
    const on = new Set(line.ids.flatMap(columnsOf));
    const maybe = new Set(proposed.flatMap((one) => (line.ids.includes(one.question) ? (column.get(one.page) ?? []) : [])));
    const placed = pages.map((_, at) => (drag && isInDrag(drag, row, at) ? drag.on : on.has(at)));
    const alone = line.questions.every((one) => onScreen(one).length === 0); // then a page in a row of several answers it
    const open = alone && placed.includes(true) ? [] : line.ids.filter((id) => stillOpen.has(id));
    const choice = line.questions[0] ? choiceWords(line.questions[0], questions) : "";
    const screen = line.questions.filter((one) => onScreen(one).length > 0);
    const typed = screen.map((one) => answers[one.id]).filter(Boolean).join("; ");
    const lacks = line.questions.flatMap((one) => (open.includes(one.id) ? missingKinds(arrangement, one) : []));
    return {
      row,
      ids: line.ids.join(" "),
      labels: line.questions.map((one) => one.label).join(" "),
      name: labelWords(line.ids, questions),
      first: line.first,
      blank: line.ids.every((id) => arrangement.left_blank.includes(id)) && typed === "",
      placed: placed.map(Number).join(""),
      proposed: pages.map((_, at) => Number(maybe.has(at) && placed[at] === false)).join(""),
      open: labelWords(open, questions),
      onScreen: screen.length > 0,
      onPages: line.questions.some(takesPages),
      typed,
      noPage: open.length > 0 ? choice || lackWords(lacks) : choice === "bonus" ? choice : "not needed",
    };
  });
  return (
    <div className="ribbons" ref={field}>
      <ul className="ribbon-heads" aria-label="Questions and the pages that answer them">
        <li id="ribbons-do" hidden>
          Places it on the chosen page, or takes it off.
        </li>
        <li id="ribbons-open" hidden>
          Opens it beside the pages, to be answered there.
        </li>
        {lines.map((line, at) => (
          <RowHead
            key={line.ids.join()}
            {...(rows[at] as RowProps)}
            title={line.questions.length === 1 ? (line.questions[0]?.title ?? "") : ""}
            points={line.questions.reduce((sum, one) => sum + one.points, 0)}
            question={line.questions[0]?.question ?? ""}
            folded={line.questions.length > 1}
            foldable={line.foldable}
            disabled={pages.length === 0 && line.questions.some(takesPages)}
            rowActions={rowActions}
          />
        ))}
      </ul>
      {/* Pointers drag here; the rows' buttons do the same for keys and screen readers. */}
      <div className="ribbon-field" aria-hidden="true">
        {rows.map((one) => (
          <RowCells key={one.ids} {...one} columns={pages.length} columnPx={columnPx} rowActions={rowActions} />
        ))}
      </div>
    </div>
  );
});

/** What can be done to a row, by its number. */
interface RowActions {
  fold: (question: string) => void;
  dragCells: (event: React.PointerEvent) => void;
  toggle: (row: number) => void;
  leaveBlank: (row: number, blank: boolean) => void;
  openAnswer: (row: number) => void;
  dragHead: (row: number, event: React.PointerEvent) => void;
}

function linesOf(questions: Question[], folded: readonly string[]): Line[] {
  const lines: Line[] = [];
  questions.forEach((one, at) => {
    const first = questions[at - 1]?.question !== one.question;
    const foldable = questions[at + 1]?.question === one.question || !first;
    const last = lines.at(-1);
    if (folded.includes(one.question) && !first && last) {
      last.ids.push(one.id);
      last.questions.push(one);
    } else lines.push({ ids: [one.id], questions: [one], first, foldable: first && foldable });
  });
  return lines;
}

/** What both halves of a row show. */
interface RowProps {
  row: number;
  /** Of its questions, with spaces between; the labels for whoever looks for a row by them. */
  ids: string;
  labels: string;
  name: string;
  first: boolean;
  open: string;
  /** Answered on the screen, on pages, or both. */
  onScreen: boolean;
  onPages: boolean;
  /** What is answered on the screen, in a few words. */
  typed: string;
  /** Said where something is missing: "no page yet", "any 2 of 4", "not needed", "bonus". */
  noPage: string;
  blank: boolean;
  /** A 1 for each page it lies under, a 0 for each other: a string, so that rows that stay the same are not drawn anew. */
  placed: string;
  /** The same of what is proposed. */
  proposed: string;
}
interface HeadProps extends RowProps {
  title: string;
  points: number;
  question: string;
  folded: boolean;
  foldable: boolean;
  disabled: boolean;
  rowActions: RowActions;
}
interface CellsProps extends RowProps {
  columns: number;
  columnPx: number;
  rowActions: RowActions;
}

/** All heads lie in one column that stays while the pages scroll: a column of its own for each would cost a layer each. */
const RowHead = memo(function RowHead(props: HeadProps) {
  const { row, name, open, blank, folded, rowActions } = props;
  const on = pagesOn(props.placed);
  const maybe = pagesOn(props.proposed);
  const here = props.typed && `answered on the screen: ${props.typed}`;
  const placedWords = [on.length > 0 && `on page ${on.join(", ")}`, here, blank && "left blank", open && props.noPage]
    .filter(Boolean)
    .join(", ") || props.noPage;
  const press = props.onPages ? rowActions.toggle : rowActions.openAnswer;
  const state = maybe.length > 0 ? `${placedWords}, proposed on page ${maybe.join(", ")}` : placedWords;
  return (
    <li
      className={props.first ? "ribbon-row ribbon-first" : "ribbon-row"}
      title={props.title}
      data-questions={props.ids}
      data-labels={props.labels}
    >
      {props.foldable ? (
        <button
          type="button"
          className="ribbon-fold"
          aria-expanded={!folded}
          aria-label={`Question ${props.question}, ${folded ? "show each part" : "fold its parts into one row"}`}
          onClick={() => rowActions.fold(props.question)}
        >
          <i aria-hidden="true" />
        </button>
      ) : (
        <span />
      )}
      <button
        type="button"
        className={open ? "ribbon-label not-yet" : "ribbon-label"}
        aria-label={`${name}, ${state}`}
        aria-describedby={props.onPages ? "ribbons-do" : "ribbons-open"}
        title={props.onPages ? "Click: on the chosen page, or off it. Drag it onto any page." : "Click: answer it beside the pages."}
        disabled={props.disabled}
        onPointerDown={(event) => props.onPages && rowActions.dragHead(row, event)}
        onClick={() => press(row)}
      >
        {name}
      </button>
      <span className="soft">
        {props.points}
        <span className="unseen">{props.points === 1 ? " point" : " points"}</span>
      </span>
      {props.onScreen && props.onPages && (
        <button
          type="button"
          className={props.typed ? "plain ribbon-answer" : "plain ribbon-answer ribbon-unanswered"}
          title={props.typed || "Answered on the screen too"}
          onClick={() => rowActions.openAnswer(row)}
        >
          {props.typed ? "answered" : "answer"}
          <span className="unseen"> {name} on the screen</span>
        </button>
      )}
      {open && folded && open !== name && <span className="not-yet ribbon-open">no page: {open}</span>}
      {open && !(folded && open !== name) && !(props.onPages && props.noPage === NOT_ANSWERED) && (
        <span className="not-yet ribbon-open" aria-hidden="true">
          {props.noPage === "no page yet" ? (
            <>
              no page<span className="ribbon-yet"> yet</span>
            </>
          ) : (
            props.noPage
          )}
        </span>
      )}
      {!open && !blank && on.length === 0 && !props.typed && (
        <span className="soft ribbon-open" aria-hidden="true">
          {props.noPage}
        </span>
      )}
      {(open || blank) && !(folded && on.length > 0) && !props.typed && (
        <button type="button" className={blank ? "plain" : "plain ribbon-leave"} onClick={() => rowActions.leaveBlank(row, !blank)}>
          {blank ? "not blank" : "leave blank"}
          <span className="unseen"> {name}</span>
        </button>
      )}
    </li>
  );
});

const RowCells = memo(function RowCells(props: CellsProps) {
  const { row, ids, labels, name, first, blank, placed, proposed, columns, columnPx, rowActions } = props;
  const alone = props.onScreen && !props.onPages;
  return (
    <div
      className={first ? "ribbon-cells ribbon-first" : "ribbon-cells"}
      style={{ width: columns * columnPx, minWidth: alone ? MARK_PX : undefined }}
      data-questions={ids}
      data-labels={labels}
      data-row={row}
      data-columns={columns}
      data-width={columnPx}
      onPointerDown={alone ? undefined : rowActions.dragCells}
    >
      {alone && !blank && (
        <button
          type="button"
          tabIndex={-1} // the row's head does the same
          className={props.typed ? "ribbon-typed" : "ribbon-typed ribbon-untyped"}
          onClick={() => rowActions.openAnswer(row)}
        >
          {props.typed || "answered on the screen"}
        </button>
      )}
      {blank && (
        <span className="ribbon-blank">
          left blank <i />
        </span>
      )}
      {runs(columnsOn(placed)).map(({ start, length }) => (
        <span key={start} className="ribbon" style={{ "--start": start, "--length": length } as React.CSSProperties}>
          {name}
          {length > 1 && ` runs on to page ${start + length}`}
        </span>
      ))}
      {runs(columnsOn(proposed)).map(({ start, length }) => (
        <span key={start} className="ribbon ribbon-proposed" style={{ "--start": start, "--length": length } as React.CSSProperties}>
          <span>{name}?</span>
        </span>
      ))}
    </div>
  );
});

/** What is missing of a question, or of some. */
function lackWords(kinds: Question["kinds"]): string {
  const page = kinds.some(isOnPages);
  const answer = kinds.some((kind) => !isOnPages(kind));
  return page ? "no page yet" : answer ? NOT_ANSWERED : "";
}

/** Their numbers. */
function pagesOn(placed: string): string[] {
  return columnsOn(placed).flatMap((is, column) => (is ? [String(column + 1)] : []));
}

function columnsOn(placed: string): boolean[] {
  return [...placed].map((one) => one === "1");
}

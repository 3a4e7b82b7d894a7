import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../shared/api/client";
import { type Arrangement, type Change, isPlaced, place, setLeftBlank, takeOff } from "./arrangement";
import "./Ribbons.css";

type Question = Schemas["QuestionOut"];
interface Props {
  questions: Question[];
  pages: number[];
  arrangement: Arrangement;
  onChange: (change: Change) => void;
}
/** A sweep over cells of one row: all of them become what the first was not. */
interface Sweep {
  label: string;
  from: number;
  to: number;
  on: boolean;
}

export function Ribbons({ questions, pages, arrangement, onChange }: Props) {
  const [sweep, setSweep] = useState<Sweep | null>(null);
  const latest = useRef({ sweep, pages, onChange });
  latest.current = { sweep, pages, onChange };
  const sweeping = sweep !== null;
  useEffect(() => {
    if (!sweeping) return;
    const over = (event: PointerEvent) => {
      const cell = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>("[data-column]");
      const { sweep: now } = latest.current;
      if (cell && now) setSweep({ ...now, to: Number(cell.dataset.column) });
    };
    const done = () => {
      const { sweep: now, pages: all, onChange: tell } = latest.current;
      setSweep(null);
      if (!now) return;
      const swept = all.slice(Math.min(now.from, now.to), Math.max(now.from, now.to) + 1);
      tell(now.on ? place([now.label], swept) : takeOff(now.label, swept));
    };
    const cancel = () => setSweep(null);
    window.addEventListener("pointermove", over);
    window.addEventListener("pointerup", done);
    window.addEventListener("pointercancel", cancel);
    return () => {
      window.removeEventListener("pointermove", over);
      window.removeEventListener("pointerup", done);
      window.removeEventListener("pointercancel", cancel);
    };
  }, [sweeping]);
  return (
    <ul className="ribbons" aria-label="Questions and the pages that answer them">
      {questions.map((question, row) => (
        <Row
          key={question.label}
          question={question}
          first={questions[row - 1]?.question !== question.question}
          pages={pages}
          arrangement={arrangement}
          sweep={sweep?.label === question.label ? sweep : null}
          onSweep={(column, on) => setSweep({ label: question.label, from: column, to: column, on })}
          onChange={onChange}
        />
      ))}
    </ul>
  );
}

interface RowProps extends Omit<Props, "questions"> {
  question: Question;
  first: boolean;
  sweep: Sweep | null;
  onSweep: (column: number, on: boolean) => void;
}

function Row({ question, first, pages, arrangement, sweep, onSweep, onChange }: RowProps) {
  const { label } = question;
  const blank = arrangement.left_blank.includes(label);
  const placed = pages.map((page, column) => {
    const swept = sweep && column >= Math.min(sweep.from, sweep.to) && column <= Math.max(sweep.from, sweep.to);
    return swept ? sweep.on : isPlaced(arrangement, label, page);
  });
  const open = !blank && !placed.includes(true);
  return (
    <li className={first ? "ribbon-row ribbon-first" : "ribbon-row"}>
      <div className="ribbon-head" title={question.title}>
        <strong className={open ? "red" : ""}>{label}</strong>
        <span className="soft">{question.points}</span>
        {open && <span className="red ribbon-open">open</span>}
        {(open || blank) && (
          <button type="button" className={blank ? "plain" : "plain ribbon-leave"}
            onClick={() => onChange(setLeftBlank(label, !blank))}
          >
            {blank ? "not blank" : "leave blank"}
            <span className="unseen"> {label}</span>
          </button>
        )}
      </div>
      <div className="ribbon-cells">
        {pages.map((page, column) => (
          <button
            key={page}
            type="button"
            className="ribbon-cell"
            data-column={column}
            tabIndex={-1}
            aria-pressed={placed[column]}
            aria-label={`${label} on page ${column + 1}`}
            onPointerDown={(event) => {
              if (event.button !== 0) return;
              event.currentTarget.releasePointerCapture(event.pointerId);
              onSweep(column, !placed[column]);
            }}
            onClick={(event) => {
              if (event.detail > 0) return; // pointers are handled as sweeps
              onChange(placed[column] ? takeOff(label, [page]) : place([label], [page]));
            }}
          />
        ))}
        {blank && (
          <span className="ribbon-blank">
            left blank <i />
          </span>
        )}
        {runs(placed).map(({ start, length }) => (
          <span key={start} className="ribbon" style={{ "--start": start, "--length": length } as React.CSSProperties}>
            {label}
            {length > 1 && ` runs on to page ${start + length}`}
          </span>
        ))}
      </div>
    </li>
  );
}

function runs(placed: boolean[]): { start: number; length: number }[] {
  const found: { start: number; length: number }[] = [];
  placed.forEach((on, column) => {
    const last = found.at(-1);
    if (on && last && last.start + last.length === column) last.length += 1;
    else if (on) found.push({ start: column, length: 1 });
  });
  return found;
}

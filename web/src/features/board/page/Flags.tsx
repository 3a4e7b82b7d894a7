import { type RefObject, useState } from "react";
import { labelOf } from "../../../folio/labelWords";
import type { Schemas } from "../../../shared/api/client";

interface Props {
  /** By id. */
  questions: string[];
  map: Schemas["QuestionOut"][];
  topOf: (question: string) => number | null;
  sheet: RefObject<HTMLElement | null>;
  mayPlace: boolean;
  onBegin: (question: string, top: number | null) => void;
  /** Height by width of the picture. */
  ratio: number;
}

const STEP = 0.02;

/** In the margin, where each answer begins: dragged, or moved by the arrow keys; Delete takes it away. */
export function Flags({ questions, map, topOf, sheet, mayPlace, onBegin, ratio }: Props) {
  const [dragged, setDragged] = useState<{ question: string; top: number } | null>(null);
  const grab = (question: string, down: React.PointerEvent) => {
    down.preventDefault();
    down.stopPropagation();
    const box = sheet.current?.getBoundingClientRect();
    if (!box || !mayPlace) return;
    let top: number | null = null;
    const moved = ({ clientY }: PointerEvent) => {
      top = within((clientY - box.top) / box.height);
      setDragged({ question, top });
    };
    const done = () => {
      window.removeEventListener("pointermove", moved);
      window.removeEventListener("pointerup", done);
      window.removeEventListener("pointercancel", done);
      setDragged(null);
      if (top !== null) onBegin(question, top);
    };
    window.addEventListener("pointermove", moved);
    window.addEventListener("pointerup", done);
    window.addEventListener("pointercancel", done);
  };
  const flags = questions
    .map((question) => ({ question, top: dragged?.question === question ? dragged.top : topOf(question) }))
    .filter((flag): flag is { question: string; top: number } => flag.top !== null)
    .sort((a, b) => a.top - b.top);
  return flags.map(({ question, top }, number) => {
    const label = labelOf(question, map);
    const others = [flags[number - 1], flags[number + 1]].map((other) => (other ? Math.abs(other.top - top) : 1));
    // Every second one steps aside from a neighbour that it would cover.
    const gap = number % 2 === 0 ? 1 : Math.min(...others) * ratio;
    const style = { top: `${top * 100}%`, "--gap": gap } as React.CSSProperties;
    const onKeyDown = (event: React.KeyboardEvent) => {
      const to = { ArrowUp: within(top - STEP), ArrowDown: within(top + STEP), Delete: null }[event.key];
      if (to === undefined || !mayPlace) return;
      event.preventDefault();
      event.stopPropagation();
      onBegin(question, to);
    };
    return (
      <button
        key={question}
        type="button"
        className="panel-flag"
        style={style}
        aria-label={`${label} begins ${Math.round(top * 100)} % down the page. Arrow up and down move it, Delete takes it away`}
        onPointerDown={(event) => grab(question, event)}
        onClick={(event) => event.stopPropagation()}
        onKeyDown={onKeyDown}
      >
        {label}
      </button>
    );
  });
}

function within(top: number): number {
  return Math.round(Math.min(1, Math.max(0, top)) * 1000) / 1000;
}

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
}

const STEP = 0.02;

/** In the margin, where each answer begins: dragged, or moved by the arrow keys; Delete takes it away. */
export function Flags({ questions, map, topOf, sheet, mayPlace, onBegin }: Props) {
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
  return questions.flatMap((question) => {
    const label = labelOf(question, map);
    const top = dragged?.question === question ? dragged.top : topOf(question);
    if (top === null) return [];
    const onKeyDown = (event: React.KeyboardEvent) => {
      const to = { ArrowUp: within(top - STEP), ArrowDown: within(top + STEP), Delete: null }[event.key];
      if (to === undefined || !mayPlace) return;
      event.preventDefault();
      event.stopPropagation();
      onBegin(question, to);
    };
    return [
      <button
        key={question}
        type="button"
        className="panel-flag"
        style={{ top: `${top * 100}%` }}
        aria-label={`${label} begins ${Math.round(top * 100)} % down the page. Arrow up and down move it, Delete takes it away`}
        onPointerDown={(event) => grab(question, event)}
        onClick={(event) => event.stopPropagation()}
        onKeyDown={onKeyDown}
      >
        {label}
      </button>,
    ];
  });
}

function within(top: number): number {
  return Math.round(Math.min(1, Math.max(0, top)) * 1000) / 1000;
}

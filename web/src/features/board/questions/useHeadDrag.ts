import { useEffect, useRef, useState } from "react";
import { useLatest } from "../../../shared/useLatest";
import { trackPointer } from "./trackPointer";

interface Drag {
  questions: string[];
  from: { x: number; y: number };
  at: { x: number; y: number };
}
export interface Drop {
  questions: string[];
  page: number;
  /** Where on the large page it was let go, 0 to 1; null on a small one. */
  top: number | null;
}

const BEGINS_PX = 6;

/** Dragging questions by the head of their row onto a page, small or large. `dragged` once it has really begun. */
export function useHeadDrag(onDrop: (drop: Drop) => void) {
  const [drawn, setDrawn] = useState<Drag | null>(null);
  const latest = useLatest(onDrop);
  const stop = useRef(() => {});
  useEffect(() => () => stop.current(), []);
  const begin = (questions: string[], event: React.PointerEvent) => {
    if (event.button !== 0) return;
    event.currentTarget.releasePointerCapture(event.pointerId);
    stop.current();
    const from = { x: event.clientX, y: event.clientY };
    const dragTo = (at: typeof from): Drag => ({ questions, from, at });
    stop.current = trackPointer({
      onMove: (at) => setDrawn(dragTo(at)),
      onEnd: (at) => {
        setDrawn(null);
        const drag = dragTo(at);
        const drop = farEnough(drag) ? dropAt(drag) : null;
        if (drop) latest.current(drop);
      },
      onCancel: () => setDrawn(null),
    });
    setDrawn(dragTo(from));
  };
  return { begin, dragged: drawn && farEnough(drawn) ? drawn : null };
}

function farEnough({ from, at }: Drag): boolean {
  return Math.hypot(at.x - from.x, at.y - from.y) > BEGINS_PX;
}

function dropAt({ questions, at }: Drag): Drop | null {
  for (const element of document.elementsFromPoint(at.x, at.y)) {
    if (!(element instanceof HTMLElement) || !element.dataset.page) continue;
    const { top, height } = element.getBoundingClientRect();
    const large = "large" in element.dataset;
    return { questions, page: Number(element.dataset.page), top: large ? (at.y - top) / height : null };
  }
  return null;
}

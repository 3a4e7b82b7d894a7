import { useEffect, useState } from "react";
import { useLatest } from "../../../shared/useLatest";

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
  const [drag, setDrag] = useState<Drag | null>(null);
  const latest = useLatest({ drag, onDrop });
  const dragging = drag !== null;
  useEffect(() => {
    if (!dragging) return;
    const moved = ({ clientX: x, clientY: y }: PointerEvent) => setDrag((now) => now && { ...now, at: { x, y } });
    const done = () => {
      const { drag: now, onDrop: tell } = latest.current;
      setDrag(null);
      const drop = now && farEnough(now) ? dropAt(now) : null;
      if (drop) tell(drop);
    };
    const cancel = () => setDrag(null);
    window.addEventListener("pointermove", moved);
    window.addEventListener("pointerup", done);
    window.addEventListener("pointercancel", cancel);
    return () => {
      window.removeEventListener("pointermove", moved);
      window.removeEventListener("pointerup", done);
      window.removeEventListener("pointercancel", cancel);
    };
  }, [dragging, latest]);
  const begin = (questions: string[], event: React.PointerEvent) => {
    if (event.button !== 0) return;
    event.currentTarget.releasePointerCapture(event.pointerId);
    const point = { x: event.clientX, y: event.clientY };
    setDrag({ questions, from: point, at: point });
  };
  return { begin, dragged: drag && farEnough(drag) ? drag : null };
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

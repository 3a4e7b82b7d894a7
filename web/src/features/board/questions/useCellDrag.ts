import { type RefObject, useEffect, useRef, useState } from "react";
import { useLatest } from "../../../shared/useLatest";
import type { CellDrag } from "./cellDrag";
import { trackPointer } from "./trackPointer";

const EDGE_PX = 10; // of the scrolled field: a pointer that comes so near to its edge draws it on; less than half a row
const STEP_PX = 14;

/**
 * Dragging over cells by mouse or pen: `begin` at a cell, `onDone` with the rectangle when the pointer is let go. A cell
 * is an element with `data-row`; its column follows from the pointer's place over columns of `data-width` px.
 */
export function useCellDrag(field: RefObject<HTMLElement | null>, onDone: (drag: CellDrag) => void) {
  const [drawn, setDrawn] = useState<CellDrag | null>(null);
  const latest = useLatest(onDone);
  const stop = useRef(() => {});
  useEffect(() => () => stop.current(), []);
  const begin = (first: CellDrag) => {
    stop.current();
    let now = first; // what is drawn may lag behind it
    let pointer = { x: 0, y: 0 };
    const over = () => {
      const cell = cellAt(pointer.x, pointer.y);
      if (cell && !same(now.to, cell)) setDrawn((now = { ...now, to: cell }));
    };
    const moved = (at: typeof pointer) => {
      pointer = at;
      over();
    };
    const drawOn = setInterval(() => {
      const scroller = field.current?.closest(".strip-scroll");
      if (!scroller || pointer.y === 0) return;
      const { top, bottom } = scroller.getBoundingClientRect();
      const by = pointer.y > bottom - EDGE_PX ? STEP_PX : pointer.y < top + EDGE_PX ? -STEP_PX : 0;
      if (by === 0) return;
      scroller.scrollTop += by;
      over();
    }, 30);
    const end = () => {
      clearInterval(drawOn);
      setDrawn(null);
    };
    const untrack = trackPointer({
      onMove: moved,
      onEnd: (at) => {
        moved(at);
        end();
        latest.current(now);
      },
      onCancel: end,
    });
    stop.current = () => {
      untrack();
      clearInterval(drawOn);
    };
    setDrawn(first);
  };
  return { drag: drawn, begin };
}

function same(a: CellDrag["to"], b: CellDrag["to"]): boolean {
  return a.row === b.row && a.column === b.column;
}

/** The row and column under a point of the window; null outside of all rows. */
export function cellAt(x: number, y: number): CellDrag["to"] | null {
  const row = document.elementsFromPoint(x, y).find((one): one is HTMLElement => one instanceof HTMLElement && "row" in one.dataset);
  if (!row) return null;
  const [columns, width] = [Number(row.dataset.columns), Number(row.dataset.width)];
  const column = Math.floor((x - row.getBoundingClientRect().left) / width);
  return { row: Number(row.dataset.row), column: Math.min(Math.max(column, 0), columns - 1) };
}

/** The questions of the row under a point of the window, head included, as its halves name them; null outside of all rows. */
export function questionsAt(x: number, y: number): string | null {
  for (const element of document.elementsFromPoint(x, y)) {
    const half = element.closest<HTMLElement>("[data-questions]");
    if (half) return half.dataset.questions ?? null;
  }
  return null;
}

/** A row's head and its cells. */
export function halvesOf(questions: string): HTMLElement[] {
  return [...document.querySelectorAll<HTMLElement>(`[data-questions="${CSS.escape(questions)}"]`)];
}

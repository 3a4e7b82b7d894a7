import { useMemo } from "react";
import { halvesOf, questionsAt } from "../questions/useCellDrag";

interface Point {
  x: number;
  y: number;
}

/**
 * A page on its way over the question rows, by mouse or touch: where the pointer is decides, whatever was scrolled
 * meanwhile. The row it would be dropped on is lit up, at the page's column.
 */
export function usePageDrag() {
  return useMemo(() => {
    let point: Point | null = null;
    let lit: string | null = null;
    let column = 0;
    const light = () => {
      const questions = point && questionsAt(point.x, point.y);
      if (questions === lit) return;
      if (lit !== null) halvesOf(lit).forEach((half) => half.removeAttribute("data-drop"));
      lit = questions;
      if (lit === null) return;
      for (const half of halvesOf(lit)) {
        half.setAttribute("data-drop", "");
        half.style.setProperty("--drop-column", String(column));
      }
    };
    const moved = (event: Event) => {
      point = pointOf(event) ?? point;
      light();
    };
    const listen = (way: "addEventListener" | "removeEventListener") => {
      for (const kind of ["mousemove", "touchmove", "scroll"]) window[way](kind, moved, { capture: true });
    };
    return {
      start: (at: number, event: Event) => {
        column = at;
        point = pointOf(event);
        listen("addEventListener");
      },
      /** The questions of the row under the pointer; null where it is over none. */
      end: (): string[] | null => {
        listen("removeEventListener");
        light();
        const questions = lit === null ? null : lit.split(" ");
        point = null;
        light();
        return questions;
      },
    };
  }, []);
}

function pointOf(event: Event): Point | null {
  if (event instanceof MouseEvent) return { x: event.clientX, y: event.clientY };
  const touch = "touches" in event ? (event as TouchEvent).touches[0] : undefined;
  return touch ? { x: touch.clientX, y: touch.clientY } : null;
}

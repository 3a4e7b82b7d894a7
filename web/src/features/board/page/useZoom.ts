import { type RefObject, useLayoutEffect, useRef, useState } from "react";
import { usePinch } from "./usePinch";

const MOST = 8;
export const STEP = 1.4;
const READING_PX = 900; // of a page that is read: wider lines are no easier

/**
 * How large a page is drawn in its view: 1 is the whole of it. `ratio`: its width over its height. `reading`: it begins
 * at a size to be read at. Zooming keeps the point
 * of the page under the pointer where it is.
 */
export function useZoom(view: RefObject<HTMLElement | null>, page: number, ratio: number, reading: boolean) {
  const [chosen, setChosen] = useState<number | null>(null);
  const [of, setOf] = useState({ page, reading });
  if (of.page !== page || of.reading !== reading) {
    setOf({ page, reading }); // another page is seen whole first, or at reading size
    setChosen(null);
  }
  const [room, setRoom] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const element = view.current;
    if (!element) return;
    const measure = () => setRoom({ width: element.clientWidth, height: element.clientHeight });
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [view]);
  const whole = Math.min(room.width, room.height * ratio);
  const fullWidth = whole > 0 ? Math.max(1, room.width / whole) : 1;
  const scale = chosen ?? (reading && whole > 0 ? Math.max(1, Math.min(room.width, READING_PX) / whole) : 1);
  const goal = useRef<{ left: number; top: number } | null>(null);
  useLayoutEffect(() => {
    if (goal.current) view.current?.scrollTo(goal.current);
    goal.current = null;
  }, [view, scale]);
  const zoomTo = (wanted: number, about?: { x: number; y: number }) => {
    const element = view.current;
    const next = Math.min(MOST, Math.max(1, wanted));
    if (!element || next === scale) return;
    setChosen(next);
    const box = element.getBoundingClientRect();
    const [x, y] = about ? [about.x - box.left, about.y - box.top] : [box.width / 2, 0];
    const grown = next / scale;
    goal.current = { left: (element.scrollLeft + x) * grown - x, top: (element.scrollTop + y) * grown - y };
  };
  usePinch(view, (factor, about) => zoomTo(scale * factor, about));
  return {
    scale,
    zoomTo,
    /** Of the page as drawn, in CSS pixels; 0 until the room is known. */
    width: whole * scale,
    /** The scale at which the page is as wide as its view. */
    fullWidth,
  };
}

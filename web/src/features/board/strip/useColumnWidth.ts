import { type RefObject, useEffect, useState } from "react";
import { NARROWEST_PX, WIDEST_PX } from "./StripHead";
import { usePinch } from "../page/usePinch";

export const GAP_PX = 11; // as Strip.css has it
const HEAD_PX = 200; // with the padding
const [SMALL_PX, USUAL_PX, LOW_PX] = [64, 112, 72];
const LOW_SCREEN_PX = 720; // there the questions' rows need the height

/** How wide a page's column is: so that all pages fit, until the student sizes them by the control or by pinching. */
export function useColumnWidth(scroller: RefObject<HTMLElement | null>, columns: number): [number, (px: number) => void] {
  const [wanted, setWanted] = useState<number | null>(null);
  const [room, setRoom] = useState(likelyRoom);
  useEffect(() => {
    const field = scroller.current;
    if (!field) return;
    const observer = new ResizeObserver(() => setRoom(field.clientWidth));
    observer.observe(field);
    return () => observer.disconnect();
  }, [scroller]);
  const fitting = Math.floor((room - HEAD_PX) / Math.max(1, columns)) - GAP_PX;
  const width = wanted ?? Math.min(window.innerHeight < LOW_SCREEN_PX ? LOW_PX : USUAL_PX, Math.max(SMALL_PX, fitting));
  usePinch(scroller, (factor) =>
    setWanted((now) => Math.round(Math.min(WIDEST_PX, Math.max(NARROWEST_PX, (now ?? width) * factor)))),
  );
  return [width, setWanted];
}

/** As Board.css lays it out; asking the browser before the first drawing would cost a second one. */
function likelyRoom(): number {
  return window.innerWidth - Math.max(320, window.innerWidth * 0.32) - 28;
}

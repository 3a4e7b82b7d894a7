import { type RefObject, useLayoutEffect, useState } from "react";

const MORE = 12; // rows above and below, so that Tab and a quick scroll find the next ones there

/** Which of many rows of one height are in or near the window, as [first, behind the last]. */
export function useRowsInSight(list: RefObject<HTMLElement | null>, rows: number, height: number): [number, number] {
  const [[first, behind], setRange] = useState<[number, number]>([0, 30]);
  useLayoutEffect(() => {
    const look = () => {
      const top = list.current?.getBoundingClientRect().top ?? 0;
      const from = Math.max(0, Math.floor(-top / height) - MORE);
      const to = from + Math.ceil(innerHeight / height) + 2 * MORE;
      setRange((now) => (now[0] === from && now[1] === to ? now : [from, to]));
    };
    look();
    addEventListener("scroll", look, { passive: true });
    addEventListener("resize", look);
    return () => {
      removeEventListener("scroll", look);
      removeEventListener("resize", look);
    };
  }, [list, height]);
  return [Math.min(first, Math.max(0, rows - 1)), Math.min(behind, rows)];
}

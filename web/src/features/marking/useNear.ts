import { type RefObject, useEffect, useState } from "react";

export type Near = "nothing" | "small" | "whole";
const SMALL_PX = 6000;
const WHOLE_PX = 2200;

/** How near an answer is to what is in sight of its roll: its pictures are there before it is reached. */
export function useNear(row: RefObject<HTMLElement | null>, roll: RefObject<HTMLElement | null>): Near {
  const [near, setNear] = useState<Near>("nothing");
  useEffect(() => {
    const element = row.current;
    if (!element || !roll.current) return;
    const found = { small: false, whole: false };
    const watch = (name: "small" | "whole", margin: number) =>
      new IntersectionObserver(
        (entries) => {
          found[name] = entries.at(-1)?.isIntersecting ?? false;
          setNear(found.whole ? "whole" : found.small ? "small" : "nothing");
        },
        { root: roll.current, rootMargin: `${margin}px 0px` },
      );
    const watchers = [watch("small", SMALL_PX), watch("whole", WHOLE_PX)];
    for (const one of watchers) one.observe(element);
    return () => {
      for (const one of watchers) one.disconnect();
    };
  }, [row, roll]);
  return near;
}

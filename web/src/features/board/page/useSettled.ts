import { startTransition, useEffect, useRef, useState } from "react";

const IN_A_ROW_MS = 150; // a held key repeats every 30–40 ms, a fair typist's keys are 120 apart

/**
 * The value a frame after it changed; where changes follow each other quickly, when they have paused. What is costly to
 * draw keeps out of the way of a held key. The parts are compared one by one.
 */
export function useSettled<T extends readonly unknown[]>(...value: T): T {
  const [settled, setSettled] = useState(value);
  const changed = useRef(0);
  useEffect(() => {
    const inARow = performance.now() - changed.current < IN_A_ROW_MS;
    changed.current = performance.now();
    const follow = () => startTransition(() => setSettled((now) => (same(now, value) ? now : value)));
    const timer = setTimeout(follow, inARow ? IN_A_ROW_MS : 0);
    return () => clearTimeout(timer);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the parts, not the list of them
  }, value);
  return settled;
}

function same(one: readonly unknown[], other: readonly unknown[]): boolean {
  return one.every((part, at) => Object.is(part, other[at]));
}

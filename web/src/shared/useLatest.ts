import { type RefObject, useEffect, useRef } from "react";

/** What was handed in at the last drawing, for handlers that must not change with every one. */
export function useLatest<Value>(value: Value): RefObject<Value> {
  const latest = useRef(value);
  useEffect(() => {
    latest.current = value;
  });
  return latest;
}

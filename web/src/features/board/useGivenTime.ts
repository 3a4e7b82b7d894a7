import { useEffect, useRef } from "react";
import { notices } from "../../shared/notices";
import { clockTime } from "../../shared/time";
import type { BoardData } from "./useBoard";

/** When an instructor lengthens the sitting while it is looked at, that is said at once. */
export function useGivenTime(board: BoardData) {
  const given = board.events.filter((event) => event.kind === "lengthened");
  const known = useRef(given.length);
  const minutes = given.slice(known.current).reduce((all, event) => all + (event.minutes ?? 0), 0);
  const closes = clockTime(board.window.closes, board.assignment.time_zone);
  useEffect(() => {
    known.current = given.length;
    if (minutes === 0) return;
    const title = `${minutes} more minutes`;
    const description = `Your instructor lengthened your sitting. It closes at ${closes}.`;
    notices.add({ key: "given-time", kind: "info", title, description, seconds: 20 });
  }, [given.length, minutes, closes]);
}

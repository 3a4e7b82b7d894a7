import { App } from "antd";
import { useEffect, useRef } from "react";
import { clockTime } from "../../shared/time";
import type { BoardData } from "./useBoard";

/** When an instructor lengthens the sitting while it is looked at, that is said at once. */
export function useGivenTime(board: BoardData) {
  const { notification } = App.useApp();
  const given = board.events.filter((event) => event.kind === "lengthened");
  const known = useRef(given.length);
  const minutes = given.slice(known.current).reduce((all, event) => all + (event.minutes ?? 0), 0);
  const closes = clockTime(board.window.closes, board.assignment.time_zone);
  useEffect(() => {
    known.current = given.length;
    if (minutes === 0) return;
    const title = `${minutes} more minutes`;
    notification.info({ key: "given-time", title, description: `Your instructor lengthened your sitting. It closes at ${closes}.`, duration: 20 });
  }, [given.length, minutes, closes, notification]);
}

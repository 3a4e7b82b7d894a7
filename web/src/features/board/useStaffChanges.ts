import { useEffect, useRef } from "react";
import { changeWords, eventsOf } from "../../folio/eventWords";
import type { BoardData } from "../../folio/useBoard";
import { notices } from "../../shared/notices";
import { clockTime, dayAndTime } from "../../shared/time";
import { list } from "../../shared/words";

/** What the course's staff change while the board is looked at is said at once: minutes given, times, the question map. */
export function useStaffChanges(board: BoardData) {
  const zone = board.assignment.time_zone;
  const given = eventsOf(board.events, "lengthened");
  const times = eventsOf(board.events, "amended");
  const maps = eventsOf(board.events, "map_changed");
  const known = useRef({ given: given.length, times: times.length, maps: maps.length });
  const minutes = given.slice(known.current.given).reduce((all, event) => all + event.minutes, 0);
  const closes = clockTime(board.window.closes, zone);
  const [newTimes, newMap] = [times.slice(known.current.times).at(-1), maps.slice(known.current.maps)];
  const changes = newMap.flatMap((event) => event.changes.map(changeWords)).join("; ");
  useEffect(() => {
    known.current = { given: given.length, times: times.length, maps: maps.length };
    if (minutes > 0) {
      const description = `Your instructor lengthened your sitting. It closes at ${closes}.`;
      notices.add({ key: "given-time", kind: "info", title: `${minutes} more minutes`, description, seconds: 20 });
    }
    if (newTimes) {
      const description = `Your instructor changed the times. This now closes ${dayAndTime(newTimes.closes_now, zone)}.`;
      notices.add({ key: "times", kind: "info", title: "More time", description, seconds: 20 });
    }
    if (changes) {
      const description = `${list([changes])}. What you placed on other questions stays as it is.`;
      notices.add({ key: "map", kind: "warning", title: "The question map was changed", description, seconds: 0 });
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each change, which its count or words tell
  }, [given.length, times.length, maps.length, minutes, closes, changes]);
}

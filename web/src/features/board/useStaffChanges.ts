import { useEffect, useRef } from "react";
import { changeWords, eventsOf } from "../../folio/eventWords";
import type { BoardData } from "../../folio/useBoard";
import { api } from "../../shared/api/client";
import { whenLeaving } from "../../shared/me";
import { notices } from "../../shared/notices";
import { clockTime, dayAndTime } from "../../shared/time";
import { list } from "../../shared/words";

/** What the course's staff change while the board is looked at is said at once: minutes given, times, the question map, a word. */
export function useStaffChanges(board: BoardData) {
  const zone = board.assignment.time_zone;
  const given = eventsOf(board.events, "lengthened");
  const times = eventsOf(board.events, "amended");
  const maps = eventsOf(board.events, "map_changed");
  const words = eventsOf(board.events, "told");
  const known = useRef({ given: given.length, times: times.length, maps: maps.length, words: heard(board.id) });
  const minutes = given.slice(known.current.given).reduce((all, event) => all + event.minutes, 0);
  const closes = clockTime(board.window.closes, zone);
  const [newTimes, newMap] = [times.slice(known.current.times).at(-1), maps.slice(known.current.maps)];
  const newWords = words.slice(known.current.words);
  const changes = newMap.flatMap((event) => event.changes.map(changeWords)).join("; ");
  useEffect(() => {
    known.current = { given: given.length, times: times.length, maps: maps.length, words: words.length };
    keepHeard(board.id, words.length);
    for (const word of newWords)
      notices.add({ key: `word ${word.at}`, kind: "info", title: word.text, description: `${word.by}, ${clockTime(word.at, zone)}`, seconds: 0 });
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
  }, [given.length, times.length, maps.length, words.length, minutes, closes, changes]);
  // After they were shown above. Where it does not arrive it is said again when the board is opened the next time.
  const heardThere = eventsOf(board.events, "heard").at(-1)?.words ?? 0;
  useEffect(() => {
    if (words.length <= heardThere) return;
    void api.PUT("/api/folios/{folio_id}/heard", { params: { path: { folio_id: board.id } }, body: { words: words.length } }).catch(() => null);
  }, [board.id, heardThere, words.length]);
}

const HEARD = "inked-folio-heard-";

/** How many words of staff this browser has shown of this folio: one that came while it was closed is not missed. */
function heard(folioId: number): number {
  try {
    return Number(localStorage.getItem(HEARD + folioId) ?? 0);
  } catch {
    return 0;
  }
}

function keepHeard(folioId: number, words: number) {
  try {
    if (words > 0) localStorage.setItem(HEARD + folioId, String(words));
  } catch {
    // a browser that keeps nothing shows them again
  }
}

whenLeaving(() => {
  for (const name of Object.keys(globalThis.localStorage ?? {})) if (name.startsWith(HEARD)) localStorage.removeItem(name);
});

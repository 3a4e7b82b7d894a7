import type { Schemas } from "./api/client";
import { count } from "./words";

type Window = Schemas["WindowOut"];
type Event = Schemas["EventOut"];

/** What ends next. `adding`: pages are still taken until then. */
export interface End {
  at: number;
  from: number;
  words: string;
  adding: boolean;
}

export function nextEnd(window: Window, now: number): End | null {
  const ends = [
    { at: Date.parse(window.writing_ends ?? window.due), words: window.timed ? "left to write" : "until due" },
    { at: Date.parse(window.closes), words: window.timed ? "left to hand in" : "left, as late work" },
  ];
  let from = Date.parse(window.begun ?? window.opens);
  for (const end of ends) {
    if (now < end.at) return { ...end, from, adding: true };
    from = end.at;
  }
  const placing = Date.parse(window.placing_ends);
  return now < placing ? { at: placing, from, words: "left to place; no more pages", adding: false } : null;
}

/** "4 pages in · 10 min given · edition 2" */
export function happened(events: readonly Event[]): string {
  const of = (kind: string) => events.filter((event) => event.kind === kind);
  const minutes = of("lengthened").reduce((all, event) => all + (event.minutes ?? 0), 0);
  const edition = of("handed_in").at(-1)?.number;
  return [
    of("arrived").length > 0 && `${count(of("arrived").length, "file")} in`,
    minutes > 0 && `${minutes} min given`,
    edition && `edition ${edition}`,
  ]
    .filter(Boolean)
    .join(" · ");
}

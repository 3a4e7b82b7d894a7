import type { Schemas } from "../shared/api/client";

type Window = Schemas["WindowOut"];

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

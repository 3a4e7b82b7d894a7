import type { Schemas } from "../shared/api/client";

type Window = Schemas["WindowOut"];

/** What ends next. `adding`: pages are still taken until then. */
export interface End {
  at: number;
  from: number;
  words: string;
  adding: boolean;
}

/** Writing, photographing and sending have one end. */
export function isOneClock({ timed, writing_ends: writing, handover_ends: handover }: Pick<Window, "timed" | "writing_ends" | "handover_ends">): boolean {
  return timed && writing !== null && writing === handover;
}

export function nextEnd(window: Window, now: number): End | null {
  const writing = isOneClock(window) ? "left to write and send" : "left to write";
  const ends = [
    { at: Date.parse(window.writing_ends ?? window.due), words: window.timed ? writing : "until due" },
    { at: Date.parse(window.closes), words: window.timed ? "left to hand in" : "left, as late work" },
  ];
  let from = Date.parse(window.begun ?? window.opens);
  for (const end of ends) {
    if (now < end.at) return { ...end, from, adding: true };
    from = end.at;
  }
  const asked = Date.parse(window.asked_until ?? "");
  if (now < asked) return { at: asked, from, words: "left to send again what is asked for", adding: true };
  const placing = Date.parse(window.placing_ends);
  return now < placing ? { at: placing, from, words: "left to place; no more pages", adding: false } : null;
}

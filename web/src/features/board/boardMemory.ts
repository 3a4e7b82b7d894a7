import { whenLeaving } from "../../shared/me";
import type { Arrangement } from "./arrangement";
import type { Saved } from "./sendArrangement";

/** One thing done on the board: what it was, and how all lay before it. */
export interface Step {
  words: string;
  before: Arrangement;
}

/** What a browser keeps of a board, so that a reload loses neither the last change nor the way back. */
export interface Memory {
  seen: Saved;
  /** How all should lie, where that is not on the server yet. */
  wanted: Arrangement | null;
  past: readonly Step[];
  future: readonly Step[];
}

const MOST_STEPS = 60;
const NAME = "inked-folio-board-";

export const boardMemory = {
  read(folioId: number): Memory | null {
    try {
      return JSON.parse(localStorage.getItem(NAME + folioId) ?? "null") as Memory | null;
    } catch {
      return null;
    }
  },
  keep(folioId: number, memory: Memory) {
    try {
      const past = memory.past.slice(-MOST_STEPS);
      localStorage.setItem(NAME + folioId, JSON.stringify({ ...memory, past }));
    } catch {
      // a browser that keeps nothing still has the steps until it is closed
    }
  },
};

/** The next person at this browser has no business with it; only what is not on the server yet waits for its student. */
whenLeaving(() => {
  for (const name of Object.keys(globalThis.localStorage ?? {})) {
    const folioId = Number(name.startsWith(NAME) && name.slice(NAME.length));
    if (folioId && boardMemory.read(folioId)?.wanted === null) localStorage.removeItem(name);
  }
});

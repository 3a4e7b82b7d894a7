import { whenLeaving } from "../shared/me";
import { whenQuiet } from "../shared/quiet";
import type { Arrangement } from "./arrangement";
import type { Saved } from "./sendArrangement";

/** One thing done on the board: what it was, and how all lay before it. */
export interface Step {
  words: string;
  before: Arrangement;
  /** When, on the server's clock. */
  at?: number;
  /** Further changes of the same name are part of this step: a word that is being typed. */
  joins?: string;
}

/** What a browser keeps of a board, so that a reload loses neither the last change nor the way back. */
export interface Memory {
  seen: Saved;
  /** How all should lie, where that is not on the server yet. */
  wanted: Arrangement | null;
  /** What was sent last, where nobody has said yet that it is there. */
  sending: Arrangement | null;
  past: readonly Step[];
  future: readonly Step[];
}

const MOST_STEPS = 60;
const NAME = "inked-folio-board-";
const STEPS = "inked-folio-steps-";
const unwritten = new Map<number, Pick<Memory, "past" | "future">>();
let taken: (() => void) | null = null;

/** The last change is written at once; the way back, which is long, when the browser has nothing to do or is left. */
export const boardMemory = {
  read(folioId: number): Memory | null {
    const state = read<Pick<Memory, "seen" | "wanted" | "sending">>(NAME + folioId);
    const steps = unwritten.get(folioId) ?? read<Pick<Memory, "past" | "future">>(STEPS + folioId);
    return state && { past: [], future: [], ...state, sending: state.sending ?? null, ...steps };
  },
  keep(folioId: number, { seen, wanted, sending, past, future }: Memory) {
    write(NAME + folioId, { seen, wanted, sending });
    unwritten.set(folioId, { past: past.slice(-MOST_STEPS), future });
    taken ??= whenQuiet(writeSteps);
  },
};

function writeSteps() {
  taken = null;
  unwritten.forEach((steps, folioId) => write(STEPS + folioId, steps));
  unwritten.clear();
}
// A phone may end a page that is out of sight without another word.
for (const left of ["pagehide", "visibilitychange"]) globalThis.addEventListener?.(left, writeSteps);

function read<T>(name: string): T | null {
  try {
    return JSON.parse(localStorage.getItem(name) ?? "null", completed) as T | null;
  } catch {
    return null;
  }
}

/** What an earlier version of the application kept lacks what has come since. */
function completed(_: string, value: unknown): unknown {
  const isArrangement = typeof value === "object" && value !== null && "order" in value && "placements" in value;
  return isArrangement && !("scales" in value) ? { ...value, scales: {} } : value;
}

function write(name: string, value: object) {
  try {
    localStorage.setItem(name, JSON.stringify(value));
  } catch {
    // a browser that keeps nothing still has the steps until it is closed
  }
}

/** The next person at this browser has no business with it; only what is not on the server yet waits for its student. */
whenLeaving(() => {
  for (const name of Object.keys(globalThis.localStorage ?? {})) {
    const folioId = Number(name.startsWith(NAME) && name.slice(NAME.length));
    if (!folioId || boardMemory.read(folioId)?.wanted !== null) continue;
    unwritten.delete(folioId);
    localStorage.removeItem(name);
    localStorage.removeItem(STEPS + folioId);
  }
});

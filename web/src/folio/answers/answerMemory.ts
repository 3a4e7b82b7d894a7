import type { Content } from "./content";

/** What this browser keeps of an answer that is not on the server yet; it outlives a reload, a crash and a sign-out. */
export interface Unsent {
  /** The answer it was typed on. */
  version: number;
  content: Content;
  /** What was sent and not acknowledged: it may be there, and is sent again before anything newer. */
  sending?: Content;
}

const NAME = "inked-folio-answers-";

export const answerMemory = {
  read(folioId: number): Record<string, Unsent> {
    try {
      return (JSON.parse(localStorage.getItem(NAME + folioId) ?? "null") as Record<string, Unsent> | null) ?? {};
    } catch {
      return {};
    }
  },
  keep(folioId: number, unsent: Record<string, Unsent>) {
    try {
      if (Object.keys(unsent).length === 0) localStorage.removeItem(NAME + folioId);
      else localStorage.setItem(NAME + folioId, JSON.stringify(unsent));
    } catch {
      // no room: what is typed is still on the screen and on its way
    }
  },
};

/** The folios of which something waits in this browser, whosever they are. */
export function foliosWithUnsentAnswers(): number[] {
  try {
    const names = Object.keys(localStorage).filter((one) => one.startsWith(NAME));
    return names.map((one) => Number(one.slice(NAME.length)));
  } catch {
    return [];
  }
}

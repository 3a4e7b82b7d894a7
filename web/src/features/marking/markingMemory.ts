import type { Wanted } from "./sendMarking";

const NAME = "inked-folio-marking-";

/** What this browser keeps of marking that is not on the server yet, by assignment and marker; it outlives a reload. */
export const markingMemory = {
  read(key: string): Wanted[] {
    try {
      return (JSON.parse(localStorage.getItem(NAME + key) ?? "null") as Wanted[] | null) ?? [];
    } catch {
      return [];
    }
  },
  keep(key: string, wanted: readonly Wanted[]) {
    try {
      if (wanted.length === 0) localStorage.removeItem(NAME + key);
      else localStorage.setItem(NAME + key, JSON.stringify(wanted));
    } catch {
      // no room: what is given is still on the screen and on its way
    }
  },
};

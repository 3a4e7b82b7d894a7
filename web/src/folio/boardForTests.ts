import { expect } from "vitest";
import { inTime } from "../shared/inTime";
import { unsavedNow } from "../shared/unsaved";
import type { Arrangement } from "./arrangement";
import { ArrangementStore } from "./ArrangementStore";
import type { Memory } from "./boardMemory";
import type { Outcome, Saved } from "./sendArrangement";

const NO_WORDS = { sides: null, comment: "", notes: {}, descriptions: {}, scales: {} };

export function fresh(order = [10, 11, 12]): Arrangement {
  return { order, removed: [], loose: [], placements: {}, left_blank: [], recipes: {}, dismissed: {}, ...NO_WORDS };
}

/** A server of one folio, for tests: takes a write against its version, answers with its state otherwise. */
export class Server {
  state: Saved = { version: 1, arrangement: fresh(), changed: null };
  fails: Outcome[] = [];
  writes = 0;

  send = (_: number, version: number, arrangement: Arrangement): Promise<Outcome> => {
    const failure = this.fails.shift();
    if (failure) return Promise.resolve(failure);
    const stale = version !== this.state.version;
    if (!stale) this.state = { version: version + 1, arrangement, changed: null };
    this.writes += stale ? 0 : 1;
    return Promise.resolve({ saved: this.state, stale, message: stale ? "Changed elsewhere meanwhile." : "" });
  };

  elsewhere(change: (from: Arrangement) => Arrangement) {
    this.state = { ...this.state, version: this.state.version + 1, arrangement: change(this.state.arrangement) };
  }
}

/** What a browser would keep, written out as there: what cannot be written is not kept. */
export function kept() {
  let text = "null";
  return {
    read: () => JSON.parse(text) as Memory | null,
    keep: (_: number, memory: Memory) => {
      text = JSON.stringify(memory);
    },
  };
}

export function board(server = new Server(), memory = kept()) {
  const link = { send: server.send, retryMs: 0 };
  return { server, memory, store: new ArrangementStore(1, server.state, link, memory) };
}

export function saved(store: ArrangementStore) {
  return inTime(() => expect(unsavedNow().length === 0 && store.shown().saving === "saved").toBe(true));
}

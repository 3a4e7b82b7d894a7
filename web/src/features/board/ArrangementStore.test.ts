import { describe, expect, test, vi } from "vitest";
import { Problem } from "../../shared/api/problem";
import { unsavedNow } from "../../shared/unsaved";
import { type Arrangement, move, place, setLeftBlank } from "./arrangement";
import { ArrangementStore } from "./ArrangementStore";
import type { Outcome, Saved } from "./sendArrangement";

function fresh(order = [10, 11, 12]): Arrangement {
  return { order, removed: [], loose: [], placements: {}, left_blank: [], recipes: {}, dismissed: {} };
}

/** A server of one folio: takes a write against its version, answers with its state otherwise. */
class Server {
  state: Saved = { version: 1, arrangement: fresh() };
  fails: Outcome[] = [];
  writes = 0;

  send = (_: number, version: number, arrangement: Arrangement): Promise<Outcome> => {
    const failure = this.fails.shift();
    if (failure) return Promise.resolve(failure);
    const stale = version !== this.state.version;
    if (!stale) this.state = { version: version + 1, arrangement };
    this.writes += stale ? 0 : 1;
    return Promise.resolve({ saved: this.state, stale, message: stale ? "Changed elsewhere meanwhile." : "" });
  };

  elsewhere(change: (from: Arrangement) => Arrangement) {
    this.state = { version: this.state.version + 1, arrangement: change(this.state.arrangement) };
  }
}

function board() {
  const server = new Server();
  return { server, store: new ArrangementStore(1, server.state, { send: server.send, retryMs: 0 }) };
}

function saved(store: ArrangementStore) {
  return vi.waitFor(() => expect(unsavedNow().length === 0 && store.shown().saving === "saved").toBe(true));
}

describe("changes on their way", () => {
  test("are shown at once and saved one after another, also when nobody looks any more", async () => {
    const { server, store } = board();
    store.change(place(["1a"], [10]));
    store.change(place(["2"], [11]));
    store.change(move(12, 10));
    expect(store.shown().arrangement.order).toEqual([12, 10, 11]);
    expect(unsavedNow()).toEqual(["the last change of order and places"]);
    await saved(store);
    expect(server.writes).toBe(3);
    expect(server.state.arrangement).toEqual(store.shown().arrangement);
  });

  test("wait for a lost network and lose nothing", async () => {
    const { server, store } = board();
    server.fails = ["unreachable", "unreachable"];
    const seen = new Set<string>();
    store.subscribe(() => seen.add(store.shown().saving));
    store.change(place(["1a"], [10]));
    store.change(setLeftBlank("2", true));
    await saved(store);
    expect(seen).toContain("waiting");
    expect(Object.keys(server.state.arrangement.placements)).toEqual(["1a"]);
    expect(server.state.arrangement.left_blank).toEqual(["2"]);
  });

  test("are made again on pages that came meanwhile", async () => {
    const { server, store } = board();
    server.elsewhere((now) => ({ ...now, order: [...now.order, 13] }));
    store.change(move(12, 10));
    await saved(store);
    expect(server.state.arrangement.order).toEqual([12, 10, 11, 13]);
    expect(store.shown().refusal).toBeNull();
  });

  test("give way to a change made elsewhere, with a word", async () => {
    const { server, store } = board();
    server.elsewhere(setLeftBlank("2", true));
    store.change(place(["2"], [10]));
    await saved(store);
    expect(store.shown().arrangement).toEqual(server.state.arrangement);
    expect(store.shown().refusal?.description).toBe("Changed elsewhere meanwhile.");
    expect(store.shown().mayUndo).toBe(false);
    store.refusalSeen();
    expect(store.shown().refusal).toBeNull();
  });

  test("that are refused show the saved state and why", async () => {
    const { server, store } = board();
    server.fails = [new Problem(403, "closed", "This closed Thu 26 Nov 15:00.")];
    store.change(place(["2"], [10]));
    await saved(store);
    expect(store.shown().arrangement.placements).toEqual({});
    expect(store.shown().refusal?.description).toBe("This closed Thu 26 Nov 15:00.");
  });
});

describe("undo and redo", () => {
  test("go through all steps and keep pages that came in between", async () => {
    const { server, store } = board();
    store.change(place(["1a"], [10]));
    store.change(move(12, 10));
    await saved(store);
    server.elsewhere((now) => ({ ...now, order: [...now.order, 13] }));
    store.hear(server.state);
    store.undo();
    store.undo();
    await saved(store);
    expect(store.shown().arrangement).toEqual(fresh([10, 11, 12, 13]));
    store.redo();
    store.redo();
    await saved(store);
    expect(server.state.arrangement.order).toEqual([12, 10, 11, 13]);
    expect(store.shown().mayRedo).toBe(false);
  });

  test("a change that changes nothing is no step", () => {
    const { store } = board();
    store.change(move(10, 10));
    expect(store.shown().mayUndo).toBe(false);
  });
});

describe("news of the server", () => {
  test("of an older version are not heard", () => {
    const { server, store } = board();
    store.hear({ version: 1, arrangement: fresh([12, 11, 10]) });
    expect(store.shown().arrangement).toEqual(server.state.arrangement);
  });

  test("of a change made elsewhere end the history", async () => {
    const { server, store } = board();
    store.change(place(["1a"], [10]));
    await saved(store);
    server.elsewhere(setLeftBlank("2", true));
    store.hear(server.state);
    expect(store.shown().arrangement.left_blank).toEqual(["2"]);
    expect(store.shown().mayUndo).toBe(false);
  });
});

import { describe, expect, test } from "vitest";
import { inTime } from "../shared/inTime";
import { type Arrangement, place, setLeftBlank } from "./arrangement";
import { ArrangementStore } from "./ArrangementStore";
import { board, fresh, kept, saved, Server } from "./boardForTests";
import type { Outcome } from "./sendArrangement";

describe("a reload", () => {
  test("loses neither the changes not yet sent nor the way back", async () => {
    const first = board();
    first.store.change(place(["1a"], [10]), "1a placed on page 1");
    await saved(first.store);
    first.server.fails = Array<Outcome>(1000).fill("unreachable");
    first.store.change(place(["2"], [11]), "2 placed on page 2");
    const again = new Server();
    again.state = first.server.state;
    const { store } = board(again, first.memory);
    await inTime(() => expect(again.writes).toBe(1));
    expect(Object.keys(again.state.arrangement.placements).sort()).toEqual(["1a", "2"]);
    expect(store.shown().past).toEqual(["1a placed on page 1", "2 placed on page 2"]);
    store.undo();
    store.undo();
    await inTime(() => expect(again.state.arrangement).toEqual(fresh()));
    expect(store.shown().future).toEqual(["2 placed on page 2", "1a placed on page 1"]);
    first.server.fails = [];
  });

  test("amid a change that is on its way goes on with what was typed after it, whichever comes first", async () => {
    const say = (comment: string) => (a: Arrangement) => ({ ...a, comment });
    for (const arrives of ["before the reload", "after it", "never"]) {
      const server = new Server();
      const memory = kept();
      const sent: (() => Promise<Outcome>)[] = [];
      let answer: (lost: Outcome) => void = () => undefined;
      const send = (folio: number, version: number, wanted: Arrangement) => {
        sent.push(() => server.send(folio, version, wanted));
        return new Promise<Outcome>((done) => (answer = done));
      };
      const link = { send, retryMs: 0 };
      const left = new ArrangementStore(1, server.state, link, memory);
      left.change(say("on the n"), "Word to the reader", "word 1");
      void left.whenSaved();
      left.change(say("on the next"), "Word to the reader", "word 1");
      expect(sent).toHaveLength(1);
      if (arrives === "before the reload") {
        await sent[0]?.();
        server.elsewhere((now) => ({ ...now, order: [...now.order, 13] }));
      }
      const { state } = server;
      if (arrives === "after it") await sent[0]?.();
      const store = new ArrangementStore(1, state, { send: server.send, retryMs: 0 }, memory);
      await store.whenSaved();
      expect(server.state.arrangement.comment, arrives).toBe("on the next");
      expect(store.shown()).toMatchObject({ refusal: null, past: ["Word to the reader"], arrangement: server.state.arrangement });
      store.undo();
      await store.whenSaved();
      expect(server.state.arrangement.comment).toBe("");
      link.send = server.send; // the page that was left comes to an end
      answer("unreachable");
      await left.whenSaved();
    }
  });

  test("keeps the newer state where the board was changed elsewhere, and offers the own change again", async () => {
    const first = board();
    first.server.fails = Array<Outcome>(1000).fill("unreachable");
    first.store.change(place(["2"], [11]), "2 placed on page 2");
    first.server.elsewhere(setLeftBlank("3", true));
    const { store } = board(Object.assign(new Server(), { state: first.server.state }), first.memory);
    expect(store.shown().arrangement.left_blank).toEqual(["3"]);
    expect(store.shown().refusal?.title).toBe("Changed elsewhere");
    store.again();
    expect(Object.keys(store.shown().arrangement.placements)).toEqual(["2"]);
    first.server.fails = [];
  });

  test("goes back past what was changed elsewhere meanwhile", async () => {
    const first = board();
    first.store.change(place(["1a"], [10]), "1a placed on page 1");
    await saved(first.store);
    first.server.elsewhere(setLeftBlank("3", true));
    const { store } = board(first.server, first.memory);
    expect(store.shown().past).toEqual(["1a placed on page 1", "Changed elsewhere: other questions left blank"]);
  });

  test("goes on from what was known last where the board comes from an older answer", () => {
    const first = board();
    first.server.elsewhere(setLeftBlank("3", true));
    first.store.hear(first.server.state);
    const { store } = board(new Server(), first.memory);
    expect(store.shown().arrangement.left_blank).toEqual(["3"]);
  });
});

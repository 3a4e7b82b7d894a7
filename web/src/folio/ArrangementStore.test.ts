import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { Problem } from "../shared/api/problem";
import { unsavedNow } from "../shared/unsaved";
import { type Arrangement, fingerprint, move, pagesOf, place, setLeftBlank } from "./arrangement";
import { ArrangementStore } from "./ArrangementStore";
import { board, fresh, kept, saved, Server } from "./boardForTests";

describe("changes on their way", () => {
  test("are shown at once and saved one after another, also when nobody looks any more", async () => {
    const { server, store } = board();
    store.change(place(["1a"], [10]), "a change");
    store.change(place(["2"], [11]), "a change");
    store.change(move([12], 10), "a change");
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
    store.change(place(["1a"], [10]), "a change");
    store.change(setLeftBlank("2", true), "a change");
    await saved(store);
    expect(seen).toContain("waiting");
    expect(Object.keys(server.state.arrangement.placements)).toEqual(["1a"]);
    expect(server.state.arrangement.left_blank).toEqual(["2"]);
  });

  test("are made again on pages that came meanwhile", async () => {
    const { server, store } = board();
    server.elsewhere((now) => ({ ...now, order: [...now.order, 13] }));
    store.change(move([12], 10), "a change");
    await saved(store);
    expect(server.state.arrangement.order).toEqual([12, 10, 11, 13]);
    expect(store.shown().refusal).toBeNull();
  });

  test("are made to the new picture where their page was taken again meanwhile", async () => {
    const { server, store } = board();
    server.elsewhere((now) => ({ ...now, order: [10, 13, 11, 12], removed: [10] }));
    store.change(place(["1a"], [10]), "1a placed on page 1");
    await saved(store);
    expect(store.shown().refusal).toBeNull();
    expect(server.state.arrangement.placements).toEqual({ "1a": [{ page: 13, top: null }] });
    expect(store.shown().past).toEqual(["1a placed on page 1", "A page was taken again"]);
    store.undo();
    await saved(store);
    expect(server.state.arrangement.removed).toEqual([13]);
    expect(server.state.arrangement.placements).toEqual({ "1a": [{ page: 10, top: null }] });
  });

  test("give way to a change made elsewhere, with a word", async () => {
    const { server, store } = board();
    server.elsewhere(setLeftBlank("2", true));
    store.change(place(["2"], [10]), "a change");
    await saved(store);
    expect(store.shown().arrangement).toEqual(server.state.arrangement);
    expect(store.shown().refusal?.description).toBe("Changed elsewhere meanwhile.");
    expect(store.shown().past).toEqual(["Changed elsewhere: other questions left blank"]);
    store.refusalSeen();
    expect(store.shown().refusal).toBeNull();
  });

  test("that gave way can be done again on the newer state", async () => {
    const { server, store } = board();
    server.elsewhere(setLeftBlank("3", true));
    store.change(place(["2"], [10]), "2 placed on page 1");
    await saved(store);
    expect(store.shown().refusal?.dropped).toEqual(["2 placed on page 1"]);
    store.again();
    await saved(store);
    expect(server.state.arrangement.left_blank).toEqual(["3"]);
    expect(Object.keys(server.state.arrangement.placements)).toEqual(["2"]);
    expect(store.shown().past).toEqual(["Changed elsewhere: other questions left blank", "2 placed on page 1"]);
  });

  test("that gave way leave the way back as it was before them", async () => {
    const { server, store } = board();
    store.change(place(["1a"], [10]), "1a placed on page 1");
    await saved(store);
    server.elsewhere(setLeftBlank("3", true));
    store.change(place(["2"], [10]), "2 placed on page 1");
    store.undo();
    store.change(move([12], 10), "page 3 moved to 1");
    await saved(store);
    expect(store.shown().past).toEqual(["1a placed on page 1", "Changed elsewhere: other questions left blank"]);
    store.undoTo(2);
    await saved(store);
    expect(server.state.arrangement).toEqual(fresh());
  });

  test("that are refused show the saved state and why", async () => {
    const { server, store } = board();
    server.fails = [new Problem(403, "closed", "This closed Thu 26 Nov 15:00.")];
    store.change(place(["2"], [10]), "a change");
    await saved(store);
    expect(store.shown().arrangement.placements).toEqual({});
    expect(store.shown().refusal?.description).toBe("This closed Thu 26 Nov 15:00.");
  });
});

describe("undo and redo", () => {
  test("go through all steps and keep pages that came in between", async () => {
    const { server, store } = board();
    store.change(place(["1a"], [10]), "a change");
    store.change(move([12], 10), "a change");
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
    expect(store.shown().future).toEqual([]);
  });

  test("each step knows when it was done, also when it is undone and done again", async () => {
    const { store } = board();
    const before = Date.now();
    store.change(place(["1a"], [10]), "a change");
    const done = store.shown().times.past;
    expect(done[0]).toBeGreaterThanOrEqual(before);
    store.undo();
    expect(store.shown().times).toEqual({ past: [], future: done });
    store.redo();
    expect(store.shown().times).toEqual({ past: done, future: [] });
    await saved(store);
  });

  test("a change that changes nothing is no step", () => {
    const { store } = board();
    store.change(move([10], 10), "a change");
    expect(store.shown().past).toEqual([]);
  });
});

describe("a change whose answer was lost", () => {
  test("is there where pages have come since, and what follows it is not dropped", async () => {
    const { server, store } = board();
    server.fails = ["unreachable"];
    store.change(place(["1a"], [10]), "1a placed on page 1");
    server.state = { ...server.state, version: 3, arrangement: { ...place(["1a"], [10])(fresh()), order: [10, 11, 12, 13] } };
    store.change(place(["2"], [11]), "2 placed on page 2");
    await saved(store);
    expect(store.shown().refusal).toBeNull();
    expect(server.state.arrangement).toMatchObject({ order: [10, 11, 12, 13], placements: { "1a": [{ page: 10 }], "2": [{ page: 11 }] } });
  });
});

describe("a word that is typed", () => {
  const say = (comment: string) => (a: Arrangement) => ({ ...a, comment });

  test("is kept at each letter, sent a little later, and is one step", async () => {
    const { server, store } = board();
    for (const text of ["s", "se", "see"]) store.change(say(text), "Word to the reader", "word 1");
    expect(store.shown().arrangement.comment).toBe("see");
    expect(store.shown().saving).toBe("saving");
    expect(server.writes).toBe(0);
    await store.whenSaved();
    expect(server.writes).toBe(1);
    expect(server.state.arrangement.comment).toBe("see");
    expect(store.shown().saving).toBe("saved");
    store.change(say("see 2"), "Word to the reader", "word 1");
    await store.whenSaved();
    store.change(say("other"), "Word to the reader", "word 2");
    await store.whenSaved();
    expect(store.shown().past).toEqual(["Word to the reader", "Word to the reader"]);
    store.undo();
    expect(store.shown().arrangement.comment).toBe("see 2");
    store.undo();
    expect(store.shown().arrangement.comment).toBe("");
  });

  test("and a page that is moved meanwhile are saved in their order", async () => {
    const { server, store } = board();
    store.change(say("a"), "Word to the reader", "word 1");
    store.change((a) => ({ ...a, order: [12, 10, 11] }), "Moved");
    store.change(say("ab"), "Word to the reader", "word 1");
    await store.whenSaved();
    expect(server.state.arrangement).toMatchObject({ comment: "ab", order: [12, 10, 11] });
    expect(store.shown().past).toEqual(["Word to the reader", "Moved", "Word to the reader"]);
  });
});

describe("news of the server", () => {
  test("of an older version are not heard", () => {
    const { server, store } = board();
    store.hear({ version: 1, arrangement: fresh([12, 11, 10]), changed: null });
    expect(store.shown().arrangement).toEqual(server.state.arrangement);
  });

  test("of the same version tell what an edition has changed about it", () => {
    const { server, store } = board();
    const changed = { edition: 1, what: ["1 page added"], by_itself: [], left_out: [], ends: "2026-11-02T17:00:00Z", honour: "" };
    store.hear({ ...server.state, changed });
    expect(store.shown().changed).toEqual(changed);
    store.hear({ ...server.state, changed: null });
    expect(store.shown().changed).toBeNull();
    expect(store.shown().past).toEqual([]);
  });

  test("that come before the answer to a change are heard after it", async () => {
    const server = new Server();
    const link = {
      retryMs: 0,
      send: async (folio: number, version: number, wanted: Arrangement) => {
        const answer = await server.send(folio, version, wanted);
        server.elsewhere((now) => ({ ...now, order: [...now.order, 13] }));
        store.hear(server.state); // the news were quicker
        return answer;
      },
    };
    const store = new ArrangementStore(1, server.state, link, kept());
    store.change(place(["1a"], [10]), "1a placed on page 1");
    await saved(store);
    expect(store.shown().arrangement).toEqual(server.state.arrangement);
  });

  test("of a change made elsewhere are a step of the history", async () => {
    const { server, store } = board();
    store.change(place(["1a"], [10]), "1a placed on page 1");
    await saved(store);
    server.elsewhere(setLeftBlank("2", true));
    store.hear(server.state);
    expect(store.shown().arrangement.left_blank).toEqual(["2"]);
    expect(store.shown().past).toEqual(["1a placed on page 1", "Changed elsewhere: other questions left blank"]);
    store.undoTo(2);
    await saved(store);
    expect(server.state.arrangement).toEqual(fresh());
    store.redo();
    store.redo();
    await saved(store);
    expect(server.state.arrangement.left_blank).toEqual(["2"]);
  });
});

describe("any sequence of changes", () => {
  const label = fc.constantFrom("1a", "1b", "2");
  const page = fc.constantFrom(10, 11, 12);
  const step = fc.oneof(
    fc.tuple(label, page).map(([one, on]) => place([one], [on])),
    fc.tuple(page, page).map(([one, to]) => move([one], to)),
    fc.tuple(label, fc.boolean()).map(([one, blank]) => setLeftBlank(one, blank)),
  );

  test("all undone is the beginning, and all done again is the end", () => {
    fc.assert(
      fc.property(fc.array(step, { maxLength: 20 }), (steps) => {
        const { store } = board();
        const start = fingerprint(store.shown().arrangement);
        steps.forEach((one, at) => store.change(one, `step ${at}`));
        const [end, done] = [fingerprint(store.shown().arrangement), store.shown().past];
        store.undoTo(done.length);
        expect(fingerprint(store.shown().arrangement)).toBe(start);
        expect(store.shown().future).toEqual(done.toReversed());
        done.forEach(() => store.redo());
        expect(fingerprint(store.shown().arrangement)).toBe(end);
        expect(store.shown().past).toEqual(done);
      }),
    );
  });

  const doing = fc.oneof(
    { weight: 3, arbitrary: step.map((change) => ({ change })) },
    { weight: 2, arbitrary: fc.nat(5).map((at) => ({ retake: at })) },
    { weight: 1, arbitrary: fc.constant({ arrives: true }) },
  );

  test("among retakes and arrivals, undone, leaves the first pictures and what came, and nothing else", async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(doing, { maxLength: 14 }), async (all) => {
        const { server, store } = board();
        const wanted = [10, 11, 12];
        let next = 20;
        for (const one of all) {
          const pages = pagesOf(store.shown().arrangement);
          if ("change" in one) store.change(one.change, "a change");
          else if ("arrives" in one) {
            wanted.push(next);
            server.elsewhere((now) => ({ ...now, order: [...now.order, next] }));
          } else server.elsewhere(takenAgain(pages[one.retake % pages.length] ?? 10, next));
          next += 1;
          await store.whenSaved();
          store.hear(server.state);
        }
        const end = fingerprint(store.shown().arrangement);
        const steps = store.shown().past.length;
        store.undoTo(steps);
        await store.whenSaved();
        expect([...pagesOf(server.state.arrangement)].sort()).toEqual(wanted);
        expect(server.state.arrangement.placements).toEqual({});
        for (let left = steps; left > 0; left -= 1) store.redo();
        expect(fingerprint(store.shown().arrangement)).toBe(end);
      }),
    );
  });
});

/** As the server does it (Arrangement.with_page_replaced). */
function takenAgain(old: number, came: number) {
  return (now: Arrangement): Arrangement => ({
    ...now,
    order: now.order.flatMap((page) => (page === old ? [old, came] : [page])),
    removed: [...now.removed, old],
    placements: Object.fromEntries(
      Object.entries(now.placements).map(([one, spots]) => [
        one,
        [...spots, ...spots.filter((spot) => spot.page === old).map((spot) => ({ ...spot, page: came }))],
      ]),
    ),
  });
}

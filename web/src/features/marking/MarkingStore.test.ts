import { describe, expect, it } from "vitest";
import { Problem } from "../../shared/api/problem";
import { type Given, MarkingStore, nameOf } from "./MarkingStore";
import type { Mark, Row, Sent, Wanted } from "./sendMarking";

const NAME = "7 12";
const NOTHING: Given = { points: null, note: "", notAttempted: false };

function mark(points: string | null, more: Partial<Mark> = {}): Mark {
  return { round: "first", points, not_attempted: false, note: "", by: "Thea", is_own: true, at: "2026-11-24T15:00:00Z", version: 1, ...more };
}

function row(marks: Mark[] = [], more: Partial<Row> = {}): Row {
  const cut = { page: 3, number: 1, image: "i", preview: "p", width: 600, height: 850, top: 0.1, bottom: 0.4, ink: [] };
  return {
    folio_id: 7, edition: 1, question: "12", label: "1b", title: "", most: 3, student: "Wren", number: "", section: "", state: "answered", cuts: [cut], more: [],
    may_be_on: [], on_screen: null, marks, round: "first", worth: marks[0]?.points ?? null, by_itself: false, not_attempted: false, look_again: false,
    before: null, wants_second: false, waits_for_other: false, differs: false, alike: "", words: [], ...more,
  };
}

/** A server that answers when it is told to. */
function stand(first: Row = row(), kept: Wanted[] = []) {
  const sent: Wanted[] = [];
  const waiting: ((outcome: Sent) => void)[] = [];
  let memory = kept;
  const link = {
    retryMs: 0,
    send: (wanted: Wanted) => {
      sent.push(wanted);
      return new Promise<Sent>((done) => waiting.push(done));
    },
  };
  const store = new MarkingStore("key", link, { read: () => memory, keep: (_key: string, wanted: readonly Wanted[]) => (memory = [...wanted]) });
  store.hear([first]);
  const answer = async (outcome: Sent) => {
    waiting.shift()?.(outcome);
    await new Promise((done) => setTimeout(done, 5));
  };
  return { store, sent, answer, memory: () => memory, shown: () => store.answer(NAME) };
}

describe("marking", () => {
  it("shows points at once and keeps them until the server has them", async () => {
    const { store, sent, answer, memory, shown } = stand();
    store.give(NAME, { ...NOTHING, points: "2" });
    expect(shown()?.given.points).toBe("2");
    expect(store.saving()).toBe("saving");
    expect(memory()).toHaveLength(1);
    await answer({ row: row([mark("2")]) });
    expect(store.saving()).toBe("saved");
    expect(memory()).toHaveLength(0);
    expect(sent).toHaveLength(1);
  });

  it("goes on over a lost network, in the order in which it was done", async () => {
    const { store, sent, answer } = stand();
    store.give(NAME, { ...NOTHING, points: "2" });
    store.draw(NAME, 3, { tool: "tick", points: [[0.5, 0.2, 0.5]], width: 0.04, text: "" });
    await answer("unreachable");
    expect(store.saving()).toBe("waiting");
    await answer({ row: row([mark("2")]) });
    await answer({ done: true });
    expect(sent.map((one) => one.what)).toEqual(["mark", "mark", "ink"]);
    expect(store.saving()).toBe("saved");
  });

  it("sends what a reload found kept", async () => {
    const kept: Wanted = { what: "mark", at: NAME, body: { folio_id: 7, edition: 1, question: "12", settles: false, version: 0, points: "1", note: "", not_attempted: false } };
    const { sent, shown, answer } = stand(row(), [kept]);
    expect(shown()?.given.points).toBe("1");
    expect(sent[0]).toEqual(kept);
    await answer({ row: row([mark("1")]) });
    expect(shown()?.saving).toBe("saved");
  });

  it("writes a second change of the same answer on the version that the first one made", async () => {
    const { store, sent, answer } = stand();
    store.give(NAME, { ...NOTHING, points: "2" });
    store.give(NAME, { ...NOTHING, points: "3" });
    await answer({ row: row([mark("2", { version: 1 })]) });
    expect(sent.map((one) => one.what === "mark" && [one.body.points, one.body.version])).toEqual([["2", 0], ["3", 1]]);
  });

  it("shows what somebody else gave meanwhile, and writes over it only when that was seen", async () => {
    const { store, sent, answer, shown } = stand();
    store.give(NAME, { ...NOTHING, points: "2" });
    await answer({ theirs: mark("3", { by: "Osric", is_own: false, version: 4 }) });
    expect(shown()?.theirs?.by).toBe("Osric");
    expect(shown()?.given.points).toBe("2");
    store.settleClash(NAME, "mine");
    expect(sent.at(-1)).toMatchObject({ body: { points: "2", version: 4 } });
  });

  it("writes nothing over what somebody gave while one was typing, though it is known by now", async () => {
    const { store, sent, answer, shown } = stand();
    const theirs = mark("3", { by: "Osric", is_own: false, version: 4 });
    store.hear([row([theirs])]);
    store.give(NAME, { ...NOTHING, points: "2" }, 0);
    expect(sent[0]).toMatchObject({ body: { points: "2", version: 0 } });
    await answer({ theirs });
    expect(shown()?.theirs?.by).toBe("Osric");
  });

  it("makes a change on one's own newest, however long it was being typed", async () => {
    const { store, sent } = stand();
    store.hear([row([mark("3", { version: 2 })])]);
    store.give(NAME, { ...NOTHING, points: "2" }, 1);
    expect(sent[0]).toMatchObject({ body: { points: "2", version: 2 } });
  });

  it("keeps theirs where that was chosen", async () => {
    const { store, sent, answer, shown } = stand();
    store.give(NAME, { ...NOTHING, points: "2" });
    await answer({ theirs: mark("3", { by: "Osric", is_own: false, version: 4 }) });
    store.settleClash(NAME, "theirs");
    expect(shown()?.given.points).toBe("3");
    expect(store.saving()).toBe("saved");
    expect(sent).toHaveLength(1);
  });

  it("says why something was not taken, and lets the rest go on", async () => {
    const { store, answer, shown } = stand();
    store.hear([row([], { question: "13" })]);
    store.give(NAME, { ...NOTHING, points: "2.25" });
    store.give("7 13", { ...NOTHING, points: "1" });
    await answer(new Problem(422, "points", "Points go in steps of 0.5 here."));
    expect(shown()?.refusal).toContain("steps");
    await answer({ row: row([mark("1")], { question: "13" }) });
    expect(store.answer("7 13")?.saving).toBe("saved");
    store.dropRefused(NAME);
    expect(shown()?.given.points).toBeNull();
    expect(store.saving()).toBe("saved");
  });

  it("takes back and does again, points and ink", async () => {
    const { store, answer, shown } = stand();
    store.give(NAME, { ...NOTHING, points: "2" });
    await answer({ row: row([mark("2")]) });
    const key = store.draw(NAME, 3, { tool: "tick", points: [[0.5, 0.2, 0.5]], width: 0.04, text: "" });
    await answer({ done: true });
    expect(shown()?.ink.get(3)?.map((one) => one.key)).toEqual([key]);
    expect(store.undo()).toBe(NAME);
    expect(shown()?.ink.get(3)).toEqual([]);
    await answer({ done: true });
    store.undo();
    expect(shown()?.given.points).toBeNull();
    store.redo();
    store.redo();
    expect(shown()?.given.points).toBe("2");
    expect(shown()?.ink.get(3)).toHaveLength(1);
  });

  it("erases one's own ink only, and brings it back as it was", async () => {
    const theirs = { key: "k1", tool: "pen" as const, points: [[0.1, 0.2, 0.5]], width: 0.003, text: "", by: "Osric", is_own: false };
    const mine = { ...theirs, key: "k2", by: "Thea", is_own: true };
    const first = row();
    const { store, shown, sent } = stand({ ...first, cuts: first.cuts.map((cut) => ({ ...cut, ink: [theirs, mine] })) });
    store.erase(NAME, 3, "k1");
    expect(shown()?.ink.get(3)).toHaveLength(2);
    store.erase(NAME, 3, "k2");
    expect(shown()?.ink.get(3)?.map((one) => one.key)).toEqual(["k1"]);
    store.undo();
    expect(shown()?.ink.get(3)?.find((one) => one.key === "k2")?.points).toEqual([[0.1, 0.2, 0.5]]);
    expect(sent[0]?.what).toBe("erase");
  });

  it("shows further strips of an answer from then on", () => {
    const { store, shown } = stand();
    const more = { page: 4, number: 2, image: "i", preview: "p", width: 600, height: 850, top: 0, bottom: 0.2, ink: [] };
    store.showMore(NAME, [more]);
    store.hear([row()]);
    expect(shown()?.row.cuts.map((cut) => cut.page)).toEqual([3, 4]);
  });

  it("does not let an older roll hide what was saved since it was asked for", async () => {
    const { store, answer, shown } = stand();
    const began = performance.now();
    store.give(NAME, { ...NOTHING, points: "2" });
    await answer({ row: row([mark("2")]) });
    store.hear([row()], began);
    expect(shown()?.given.points).toBe("2");
    store.hear([row([mark("3", { version: 2, is_own: false })])]);
    expect(shown()?.given.points).toBe("3");
  });

  it("names an answer by folio and question", () => {
    expect(nameOf(row())).toBe(NAME);
  });
});

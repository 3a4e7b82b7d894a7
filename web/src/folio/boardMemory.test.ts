import { beforeEach, expect, test, vi } from "vitest";
import type { Memory } from "./boardMemory";

const kept = new Map<string, string>();
const leave: (() => void)[] = [];

beforeEach(() => {
  kept.clear();
  vi.resetModules();
  vi.stubGlobal("window", globalThis);
  vi.stubGlobal("addEventListener", (_: string, run: () => void) => leave.push(run));
  vi.stubGlobal("localStorage", {
    getItem: (name: string) => kept.get(name) ?? null,
    setItem: (name: string, value: string) => kept.set(name, value),
  });
});

const arrangement = { order: [1], removed: [], loose: [], placements: {}, left_blank: [], recipes: {}, dismissed: {}, sides: null, comment: "", notes: {}, descriptions: {}, scales: {} };
const memory = { seen: { version: 3, arrangement }, wanted: null, sending: null, past: [{ words: "a", before: arrangement }], future: [] } as unknown as Memory;

test("the last change is there at once, the way back when the page is left, and both after a reload", async () => {
  const before = (await import("./boardMemory")).boardMemory;
  before.keep(7, memory);
  expect([...kept.keys()]).toEqual(["inked-folio-board-7"]);
  expect(before.read(7)).toEqual(memory); // also while it is not written yet
  leave.forEach((run) => run());
  vi.resetModules();
  const after = (await import("./boardMemory")).boardMemory;
  expect(after.read(7)).toEqual(memory);
  expect(after.read(8)).toBeNull();
});

test("what an earlier version kept in one piece is read, and gets what has come since", async () => {
  kept.set("inked-folio-board-7", JSON.stringify(memory).replaceAll(',"scales":{}', ""));
  const { boardMemory } = await import("./boardMemory");
  expect(boardMemory.read(7)).toEqual(memory);
});

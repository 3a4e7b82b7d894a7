import { describe, expect, test } from "vitest";
import { happened } from "./eventWords";
import { nextEnd } from "./sitting";
import { step } from "./useSpoken";

const at = (minutes: number) => new Date(Date.UTC(2026, 10, 24, 15, minutes)).toISOString();
const window = {
  opens: at(-60), due: at(600), late_until: null, begun: at(0), latest_full_begin: null, writing_ends: at(95),
  handover_ends: at(110), closes: at(110), pledges_end: at(120), placing_ends: at(170), phase: "writing", timed: true,
  asked_until: null,
} as const; // prettier-ignore
const next = (minutes: number) => nextEnd(window, Date.parse(at(minutes)));

describe("what ends next", () => {
  test("is writing, then the handover, then placing, then nothing", () => {
    expect([0, 95, 110, 170].map((minutes) => next(minutes)?.words ?? null)).toEqual([
      "left to write", "left to hand in", "left to place; no more pages", null,
    ]); // prettier-ignore
  });

  test("is one end where one clock runs for writing and sending", () => {
    const one = { ...window, handover_ends: at(95), closes: at(95) };
    expect([0, 94, 95].map((minutes) => nextEnd(one, Date.parse(at(minutes)))?.words)).toEqual([
      "left to write and send", "left to write and send", "left to place; no more pages",
    ]); // prettier-ignore
  });

  test("is spoken of at a few moments only", () => {
    const steps = Array.from({ length: 171 }, (_, minutes) => step(next(minutes), Date.parse(at(minutes))));
    expect(new Set(steps).size).toBeLessThan(22);
    expect(step(next(94), Date.parse(at(94)))).not.toBe(step(next(95), Date.parse(at(95))));
  });
});

test("what has happened is counted", () => {
  const file = { kind: "arrived", original: 1, sha256: "00", file_name: "IMG_1.jpg" } as const;
  const events = [
    { at: at(0), event: { kind: "begun" } },
    { at: at(96), event: file },
    { at: at(97), event: file },
    { at: at(98), event: { kind: "lengthened", minutes: 5, by: "Corin Vale" } },
    { at: at(99), event: { kind: "handed_in", edition: 1, verdict: "in_time", by_itself: false } },
  ] as const;
  expect(happened(events)).toBe("2 files in · 5 min given · edition 1");
});

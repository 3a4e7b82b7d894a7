import { describe, expect, it } from "vitest";
import { figuresOf } from "./figures";
import { ordered } from "./order";
import type { Row } from "./sendMarking";

describe("figures", () => {
  it("count as the server counts them (core/tests/test_marking.py)", () => {
    const { marked, of, mean, bars } = figuresOf(["0", "-1", "0.4", "2", "3.9", "4", "5", null], 4);
    expect([marked, of, bars]).toEqual([7, 8, [2, 1, 0, 0, 0, 1, 0, 0, 0, 3]]);
    expect(mean).toBeCloseTo(14.3 / 7);
    expect(figuresOf([null], 4).mean).toBeNull();
  });
});

describe("order", () => {
  const row = (folio_id: number, more: Partial<Row> = {}) => ({ folio_id, state: "answered", worth: null, alike: "2", ...more }) as Row;
  const rows = [row(1, { worth: "2" }), row(2, { alike: "1" }), row(3, { state: "open" }), row(4, { alike: "1" }), row(5, { state: "left_blank", worth: "0" })];
  const ids = (order: Parameters<typeof ordered>[1], seed = "") => ordered(rows, order, seed).map((one) => one.folio_id);
  it("keeps what is open last, whatever the order", () => {
    expect(ids("roster")).toEqual([1, 2, 4, 5, 3]);
    expect(ids("unmarked")).toEqual([2, 4, 1, 5, 3]);
    expect(ids("alike")).toEqual([2, 4, 1, 5, 3]);
    expect(ids("mixed").at(-1)).toBe(3);
  });
  it("mixes the same way for the same seed, and otherwise for others", () => {
    expect(ids("mixed", "a")).toEqual(ids("mixed", "a"));
    expect(new Set(["a", "b", "c", "d", "e", "f", "g", "h"].map((seed) => ids("mixed", seed).join())).size).toBeGreaterThan(1);
  });
});

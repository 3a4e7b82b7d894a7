import { describe, expect, it } from "vitest";
import type { Schemas } from "../../shared/api/client";
import { counts, found, readShown, writeShown } from "./shown";

type Line = Schemas["FolioLine"];
const nobody = { edition: null, folio_id: null, open_labels: [], advice: 0, automatic: false, asked: false, answered: false, verdict: null, section: "A" };
const line = (student: string, more: Partial<Line>) => ({ ...nobody, student, number: "1", email: "a@b.c", ...more }) as Line;
const LINES = [
  line("Łucja Żółć", { number: "30417" }),
  line("Édouard Noë", { folio_id: 2, section: "B" }),
  line("Ilse Marrow", { folio_id: 3, edition: 1, verdict: "late", open_labels: ["2"], advice: 2, asked: true }),
  line("Tobin Hale", { folio_id: 4, edition: 2, verdict: "in_time", automatic: true, answered: true }),
];

describe("what of the list is shown", () => {
  it("counts each kind", () => {
    expect(counts(LINES)).toEqual({
      all: 4, not_begun: 1, writing: 1, handed_in: 2, late: 1, by_itself: 1, open: 1, asked: 1, answered: 1, advice: 1,
    }); // prettier-ignore
  });

  it("finds by any part of name, number and mail, without accents", () => {
    const names = (words: string, section = "") => found(LINES, { kind: "all", section, words }).map((one) => one.student);
    expect(names("noe ed")).toEqual(["Édouard Noë"]);
    expect(names("304")).toEqual(["Łucja Żółć"]);
    expect(names("a@b", "B")).toEqual(["Édouard Noë"]);
    expect(names("nobody")).toEqual([]);
    expect(names("  ")).toHaveLength(4);
  });

  it("is kept in the address, and what is strange there is everything", () => {
    const shown = { kind: "late", section: "A", words: "il" } as const;
    expect(readShown(writeShown(shown))).toEqual(shown);
    expect(writeShown({ kind: "all", section: "", words: "" }).toString()).toBe("");
    expect(readShown(new URLSearchParams("show=toString")).kind).toBe("all");
    expect(readShown(new URLSearchParams("show=what")).kind).toBe("all");
  });
});

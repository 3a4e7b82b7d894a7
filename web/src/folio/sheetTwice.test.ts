import { describe, expect, test } from "vitest";
import { fresh } from "./boardForTests";
import type { Arrangement } from "./arrangement";
import { betterWords, keepAll, keepOnly, stillTwice, type Twice } from "./sheetTwice";

const laid = (more: Partial<Arrangement> = {}): Arrangement => ({
  ...fresh([1, 2, 3]), ...more,
});
const twice: Twice = { pages: [1, 3], better: 3, worse: [{ page: 1, drawback: "out_of_focus" }] };
const number = (page: number) => page;

describe("the same sheet twice", () => {
  test("the better picture is named with what speaks against the others", () => {
    expect(betterWords(twice, number)).toBe("Page 3 is the better picture (page 1: out of focus).");
    const three: Twice = { pages: [1, 2, 3], better: 3, worse: [{ page: 1, drawback: "less_written" }, { page: 2, drawback: "glare" }] };
    expect(betterWords(three, number)).toBe("Page 3 is the better picture (page 1: less is written on it; page 2: mirrored light).");
    expect(betterWords({ ...twice, better: null, worse: [] }, number)).toContain("Each may show writing that the other does not");
    expect(betterWords({ ...twice, worse: [{ page: 1, drawback: "nothing" }] }, number)).toBe("They show the same, equally well.");
  });
  test("kept alone, it takes over what stood on the others only", () => {
    const placements = { a: [{ page: 1, top: 0.2 }], b: [{ page: 1, top: null }, { page: 3, top: 0.4 }], c: [{ page: 1, top: null }, { page: 2, top: null }] };
    const kept = keepOnly(3, [1])(laid({ placements }));
    expect(kept.removed).toEqual([1]);
    expect(kept.placements.a).toEqual([{ page: 1, top: 0.2 }, { page: 3, top: null }]);
    expect(kept.placements.b).toEqual(placements.b);
    expect(kept.placements.c).toEqual(placements.c);
  });
  test("nothing more is said once one was removed or all are meant, until another comes", () => {
    expect(stillTwice([twice], laid())).toEqual([twice]);
    expect(stillTwice([twice], laid({ removed: [1] }))).toEqual([]);
    const meant = keepAll([1, 3])(laid());
    expect(stillTwice([twice], meant)).toEqual([]);
    const three: Twice = { ...twice, pages: [1, 2] };
    expect(stillTwice([three], meant)).toEqual([three]);
  });
});

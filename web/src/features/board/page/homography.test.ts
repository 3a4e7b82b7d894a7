import { describe, expect, test } from "vitest";
import { type Corners, isOutline, matrixOnto } from "./homography";

/** What a browser does with `matrix3d` (CSS Transforms 2): column-major, then divide by w. */
function mapped(css: string, [x, y]: readonly [number, number]): [number, number] {
  const m = css.slice("matrix3d(".length, -1).split(",").map(Number);
  const at = (row: number) => (m[row] ?? 0) * x + (m[4 + row] ?? 0) * y + (m[12 + row] ?? 0);
  return [at(0) / at(3), at(1) / at(3)];
}

const SLANTED: Corners = [[120, 80], [900, 40], [960, 1300], [60, 1240]];

describe("the preview's map", () => {
  test("takes each corner of the sheet to its corner of the page", () => {
    const css = matrixOnto(SLANTED, 210, 297);
    const ends: [number, number][] = [[0, 0], [210, 0], [210, 297], [0, 297]];
    SLANTED.forEach((corner, at) => {
      const [x, y] = mapped(css, corner);
      expect(x).toBeCloseTo(ends[at]?.[0] ?? NaN, 6);
      expect(y).toBeCloseTo(ends[at]?.[1] ?? NaN, 6);
    });
  });

  test("keeps straight lines straight: the middle of a side stays on it", () => {
    const [, y] = mapped(matrixOnto(SLANTED, 210, 297), [(120 + 900) / 2, (80 + 40) / 2]);
    expect(y).toBeCloseTo(0, 6);
  });
});

describe("an outline", () => {
  test("goes round clockwise without a dent", () => {
    expect(isOutline(SLANTED)).toBe(true);
    expect(isOutline([[0, 0], [0, 9], [9, 9], [9, 0]])).toBe(false);
    expect(isOutline([[0, 0], [90, 0], [10, 10], [0, 90]])).toBe(false);
  });
});

import { describe, expect, it } from "vitest";
import { LEAST_MM, moved } from "./spaceSides";

const PAGE = { width: 210, height: 297 };
const SPACE = { left: 20, top: 40, right: 190, bottom: 90 };

describe("a space on the paper", () => {
  it("is moved as a whole, and keeps its size at the page's sides", () => {
    expect(moved(SPACE, { what: "all", x: 5, y: -3 }, PAGE)).toEqual({ left: 25, top: 37, right: 195, bottom: 87 });
    expect(moved(SPACE, { what: "all", x: 500, y: 500 }, PAGE)).toEqual({ left: 40, top: 247, right: 210, bottom: 297 });
    expect(moved(SPACE, { what: "all", x: -500, y: -500 }, PAGE)).toEqual({ left: 0, top: 0, right: 170, bottom: 50 });
  });

  it("is drawn by either corner, and never so small that it cannot be taken hold of", () => {
    expect(moved(SPACE, { what: "foot", x: 10, y: 20 }, PAGE)).toEqual({ ...SPACE, right: 200, bottom: 110 });
    expect(moved(SPACE, { what: "head", x: -10, y: 5 }, PAGE)).toEqual({ ...SPACE, left: 10, top: 45 });
    expect(moved(SPACE, { what: "foot", x: -500, y: -500 }, PAGE)).toEqual({ ...SPACE, right: 20 + LEAST_MM, bottom: 40 + LEAST_MM });
    expect(moved(SPACE, { what: "head", x: 500, y: 500 }, PAGE)).toEqual({ ...SPACE, left: 190 - LEAST_MM, top: 90 - LEAST_MM });
    expect(moved(SPACE, { what: "foot", x: 500, y: 500 }, PAGE)).toEqual({ ...SPACE, right: 210, bottom: 297 });
  });

  it("lies on its page also where that is a fraction of a millimetre wide", () => {
    const { right } = moved(SPACE, { what: "foot", x: 500, y: 0 }, { width: 215.97, height: 279.4 });
    expect(right).toBe(215.9);
  });
});

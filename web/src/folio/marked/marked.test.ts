import { describe, expect, it } from "vitest";
import { distanceTo, inkPath, UNITS } from "./ink";
import { isStep, pointsWords, readPoints } from "./pointsWords";

describe("points", () => {
  it.each([["2.5", "2½"], ["2.50", "2½"], ["0.25", "¼"], ["-1.5", "−1½"], ["3", "3"], ["3.00", "3"], ["2.4", "2.4"], ["0", "0"]])("%s is written %s", (points, words) => {
    expect(pointsWords(points)).toBe(words);
  });
  it.each([["2,5", "2.5"], ["2½", "2.5"], [".5", "0.5"], ["½", "0.5"], ["−1", "-1"], ["03", "3"], ["2.50", "2.5"], ["-0", "0"], ["", null], ["-", null], ["x", null], ["1.234", null]])("%s is read as %s", (typed, points) => {
    expect(readPoints(typed)).toBe(points);
  });
  it("go in steps", () => {
    expect([isStep("2.5", "0.5"), isStep("2.25", "0.5"), isStep("0.3", "0.1"), isStep("-1", "1"), isStep("7", "5")]).toEqual([true, false, true, true, false]);
  });
});

describe("ink", () => {
  const line = { tool: "pen" as const, points: [[0.1, 0.1, 0.5], [0.5, 0.1, 0.5], [0.9, 0.1, 0.5]], width: 0.004, text: "" };
  it("is drawn where its points are", () => {
    const numbers = inkPath({ ...line, tool: "underline" }, 1.4);
    expect(numbers.startsWith(`M${(0.1 * UNITS).toFixed(1)} ${(0.1 * UNITS * 1.4).toFixed(1)}`)).toBe(true);
    expect(inkPath({ ...line, tool: "tick", points: [[0.5, 0.5, 0.5]], width: 0.05 }, 1).match(/L/g)).toHaveLength(2);
    expect(inkPath(line, 1.4).endsWith("Z")).toBe(true);
  });
  it("is found by the eraser on its line and not beside it", () => {
    expect(distanceTo(line, [0.3, 0.1], 1.4)).toBe(0);
    expect(distanceTo(line, [0.3, 0.2], 1.4)).toBeGreaterThan(0.1);
    expect(distanceTo({ ...line, tool: "text", points: [[0.1, 0.1, 0.5]], width: 0.02, text: "units?" }, [0.13, 0.105], 1.4)).toBe(0);
  });
});

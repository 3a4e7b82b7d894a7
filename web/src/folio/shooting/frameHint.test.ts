import { describe, expect, test } from "vitest";
import { frameHint, type Seen } from "./frameHint";

const [WIDTH, HEIGHT] = [64, 48];

/** A desk of one grey with a sheet of another, from these shares of the frame. */
function seen(desk: number, sheet: number, [left, top, right, bottom]: [number, number, number, number]): Seen {
  const grey = new Uint8ClampedArray(WIDTH * HEIGHT).map((_, at) => {
    const [x, y] = [(at % WIDTH) / WIDTH, Math.floor(at / WIDTH) / HEIGHT];
    return x >= left && x < right && y >= top && y < bottom ? sheet : desk;
  });
  return { width: WIDTH, height: HEIGHT, grey };
}

describe("the hint before a picture is taken", () => {
  test("says nothing of a sheet that lies well in the frame", () => {
    expect(frameHint(seen(90, 220, [0.1, 0.1, 0.9, 0.9]), null)).toBe("");
  });

  test.each([
    ["too dark", seen(20, 60, [0.1, 0.1, 0.9, 0.9]), /dark/],
    ["too far away", seen(90, 220, [0.4, 0.4, 0.6, 0.6]), /nearer/],
    ["cut off at one side", seen(90, 220, [0.3, 0, 1, 0.9]), /cut off/],
  ])("%s", (_, frame, words) => {
    expect(frameHint(frame, null)).toMatch(words);
  });

  test("asks to hold still while the picture moves", () => {
    expect(frameHint(seen(90, 220, [0.1, 0.1, 0.9, 0.9]), seen(220, 90, [0.1, 0.1, 0.9, 0.9]))).toMatch(/still/);
  });
});

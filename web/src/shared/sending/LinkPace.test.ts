import { expect, test } from "vitest";
import { LinkPace } from "./LinkPace";

test("a fast line bears several files at once and large pieces; a failure makes it careful", () => {
  const pace = new LinkPace();
  expect(pace.sideBySide).toBe(1);
  for (let k = 0; k < 6; k++) pace.delivered(2_000_000, 0.5);
  expect(pace.sideBySide).toBe(3);
  expect(pace.pieceBytes).toBe(4096 * 1024);
  pace.failed();
  expect(pace.sideBySide).toBe(1);
  expect(pace.weak).toBe(true);
});

test("on a slow line a piece takes about four seconds", () => {
  const pace = new LinkPace();
  for (let k = 0; k < 12; k++) pace.delivered(400_000, 10);
  expect(pace.pieceBytes / 40_000).toBeGreaterThan(3);
  expect(pace.pieceBytes / 40_000).toBeLessThan(5);
});

test("waits double up to a quarter of a minute and never fall together", () => {
  const pace = new LinkPace();
  const waits = Array.from({ length: 8 }, () => {
    pace.failed();
    return [pace.waitMs(0), pace.waitMs(1)];
  });
  expect(waits[0]).toEqual([500, 1000]);
  expect(waits[2]).toEqual([2000, 4000]);
  expect(waits[7]).toEqual([7500, 15_000]);
});

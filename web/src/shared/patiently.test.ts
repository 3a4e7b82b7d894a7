import { expect, test, vi } from "vitest";
import { patiently } from "./patiently";

test("what comes at the third try has come", async () => {
  const load = vi.fn().mockRejectedValueOnce(new Error()).mockRejectedValueOnce(new Error()).mockResolvedValue("screen");
  expect(await patiently(load, 5, 0)()).toBe("screen");
  expect(load).toHaveBeenCalledTimes(3);
});

test("what never comes is an error in the end", async () => {
  const load = vi.fn().mockRejectedValue(new Error("gone"));
  await expect(patiently(load, 3, 0)()).rejects.toThrow("gone");
  expect(load).toHaveBeenCalledTimes(3);
});

test("what failed is asked for by another address, for a browser remembers a module that failed", async () => {
  const failed = new TypeError("Failed to fetch dynamically imported module: http://127.0.0.1/assets/Board-1.js");
  const importFrom = vi.fn().mockRejectedValueOnce(failed).mockResolvedValue("board");
  const load = vi.fn().mockRejectedValue(failed);
  expect(await patiently(load, 9, 0, importFrom)()).toBe("board");
  expect(importFrom.mock.calls).toEqual([
    ["http://127.0.0.1/assets/Board-1.js?again=8"],
    ["http://127.0.0.1/assets/Board-1.js?again=7"],
  ]);
});

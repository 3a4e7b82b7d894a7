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

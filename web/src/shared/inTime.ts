import { vi } from "vitest";

/** Waits, in a test, until what is expected holds, however busy the machine is. */
export function inTime(expected: () => void | Promise<void>): Promise<void> {
  return vi.waitFor(expected, { timeout: 60_000 });
}

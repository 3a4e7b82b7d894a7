import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { clockTime, correctClock, dayAndTime, dayName, lengthOfTime, serverNow, wallTime, zoneOffset } from "./time";

const SECOND = 1000;
const MINUTE = 60 * SECOND;
const HOUR = 60 * MINUTE;

describe("moments are shown in the course's time zone", () => {
  const noon = "2026-11-24T16:00:00Z";

  test("whatever zone the device is in", () => {
    expect(clockTime(noon, "America/Halifax")).toBe("12:00");
    expect(clockTime(noon, "Europe/Berlin")).toBe("17:00");
    expect(clockTime("2026-11-24T16:00:07Z", "America/Halifax", true)).toBe("12:00:07");
  });

  test("with the day that it is there", () => {
    expect(dayAndTime("2026-11-25T02:30:00Z", "America/Halifax")).toBe("Tue 24 Nov 22:30");
    expect(dayName("2026-11-25T02:30:00Z", "Europe/Berlin")).toBe("Wed 25");
  });

  /** IANA tz database: Halifax springs forward on 8 March 2026 at 06:00 UTC, from UTC−4 to UTC−3. */
  test("on both sides of a change to daylight saving", () => {
    const before = Date.parse("2026-03-08T05:59:00Z");
    expect(clockTime(before, "America/Halifax")).toBe("01:59");
    expect(clockTime(before + MINUTE, "America/Halifax")).toBe("03:00");
    expect(zoneOffset("America/Halifax", before)).toBe("UTC−4");
    expect(zoneOffset("America/Halifax", before + MINUTE)).toBe("UTC−3");
  });
});

describe("what is left is said as people say it", () => {
  test.each([
    [5 * MINUTE + 30 * SECOND, "5 min 30 s"],
    [59 * SECOND, "59 s"],
    [10 * MINUTE, "10 min"],
    [2 * HOUR + 10 * MINUTE, "2 h 10 min"],
    [47 * HOUR, "47 h 0 min"],
    [72 * HOUR, "3 days"],
    [-5 * SECOND, "0 s"],
  ])("%d ms is %s", (length, words) => {
    expect(lengthOfTime(length)).toBe(words);
  });
});

describe("the server's clock", () => {
  beforeEach(() => {
    vi.useFakeTimers({ now: Date.parse("2026-11-24T12:00:00Z") });
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  test("counts, however wrong the device's is", () => {
    correctClock("2026-11-24T15:00:00Z");
    expect(new Date(serverNow()).toISOString()).toBe("2026-11-24T15:00:00.000Z");
    vi.advanceTimersByTime(90 * SECOND);
    expect(new Date(serverNow()).toISOString()).toBe("2026-11-24T15:01:30.000Z");
  });
});

test("a moment as it is typed, in the zone of the course", () => {
  expect(wallTime("2026-11-27T02:05:59Z", "America/Halifax")).toBe("2026-11-26T22:05");
});

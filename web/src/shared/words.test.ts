import { expect, test } from "vitest";
import { count, list, size } from "./words";

test("one is one and many are many", () => {
  expect([count(1, "page"), count(0, "page"), count(2, "query", "queries")]).toEqual(["1 page", "0 pages", "2 queries"]);
});

test("lists end with and", () => {
  expect([list(["2a"]), list(["2a", "2b"]), list(["1", "2", "3"])]).toEqual(["2a", "2a and 2b", "1, 2 and 3"]);
});

test("sizes are rounded to what matters", () => {
  expect([size(10), size(431_000), size(1_449_000)]).toEqual(["1 kB", "431 kB", "1.4 MB"]);
});

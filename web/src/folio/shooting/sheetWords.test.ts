import { describe, expect, test } from "vitest";
import { sheetWords } from "./sheetWords";

const seen = { page: 3, pages: 4, is_here: false, to_come: [2, 3, 4], next_ms: 500 };

describe("what is said of the printed sheet in the viewfinder", () => {
  test.each([
    ["which page, and which others are still to come", seen, "Page 3 of the paper's 4 · still to come: 2, 4"],
    ["that it is here already", { ...seen, is_here: true, to_come: [4] }, "Page 3 of the paper's 4, which is on the board already · still to come: 4"],
    ["that it is the last", { ...seen, to_come: [3] }, "Page 3 of the paper's 4 · the last one"],
    ["nothing of others while pages are still to be read", { ...seen, to_come: null }, "Page 3 of the paper's 4"],
    ["nothing where the page is not surely told", { ...seen, page: null }, ""],
  ])("%s", (_, sight, words) => {
    expect(sheetWords(sight)).toBe(words);
  });
});

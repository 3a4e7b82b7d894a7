import { expect, test } from "vitest";
import { labelWords } from "./labelWords";

const map = ["1a", "1b", "1c", "2a", "2b", "3"].map((label) => ({
  id: label,
  label,
  question: label.slice(0, 1),
  part: label.slice(1),
}));

test.each([
  [["3", "1a"], "1a 3"],
  [["1c", "1b", "1a"], "1a-c"],
  [["1a", "1b", "2a", "2b", "3"], "1a 1b 2a 2b 3"],
  [["1b", "1c", "2a"], "1b 1c 2a"],
  [[], ""],
])("%j is written %j", (labels, words) => {
  expect(labelWords(labels, map)).toBe(words);
});

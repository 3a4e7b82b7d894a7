import { describe, expect, it } from "vitest";
import tables from "../../../core/tests/typed_labels.json";
import { readLabels } from "./readLabels";

type Line = [string, string[], string[]];
const ROMAN = ["i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x"];

/** A map of the file, written short as a teacher would: "1a-d, 2, 3ai-iii". The ids are not the labels. */
function mapOf(text: string) {
  const labels = text.split(", ").flatMap((piece) => {
    const [first = "", last] = piece.split("-");
    if (!last) return [first];
    const [, head = "", level = ""] = /^(.*?)([a-z]|[ivx]+)$/.exec(first) ?? [];
    const row = ROMAN.includes(last) && ROMAN.includes(level) ? ROMAN : [..."abcdefghijklmnop"];
    return row.slice(row.indexOf(level), row.indexOf(last) + 1).map((one) => head + one);
  });
  return labels.map((label) => ({ id: `question ${label}`, label }));
}

const CASES = tables.flatMap(({ map, lines }) => (lines as Line[]).map((line) => [map, ...line] as const));

describe("a typed line", () => {
  it.each(CASES)("on %j: %j is read as the core reads it", (map, text, labels, unknown) => {
    const questions = labels.map((label) => `question ${label}`);
    expect(readLabels(text, mapOf(map))).toMatchObject({ questions, unknown });
  });

  it("that is not on the map brings the nearest labels", () => {
    const map = mapOf(tables[0]?.map ?? "");
    expect(readLabels("2x", map).nearest).toEqual(["2a", "2b", "2c"]);
    expect(readLabels("20", map).nearest).toEqual(["2a", "2b", "2c"]);
    expect(readLabels("99", map).nearest).toEqual([]);
    expect(readLabels("hello", map).nearest).toEqual([]);
  });
});

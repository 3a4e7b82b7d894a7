import { describe, expect, it } from "vitest";
import table from "../../../../core/tests/typed_labels.json";
import { readLabels } from "./readLabels";

const LINES = table.lines as [string, string[], string[]][];

function item(question: string, part = "") {
  return { label: question + part, question };
}

/** The map of the file, written short as a teacher would. */
const MAP = table.map.split(", ").flatMap((piece) => {
  const [, question = "", first, last] = /^(\d+)(?:([a-z])-([a-z]))?$/.exec(piece) ?? [];
  if (!first || !last) return [item(question)];
  const codes = Array.from({ length: last.charCodeAt(0) - first.charCodeAt(0) + 1 }, (_, at) => first.charCodeAt(0) + at);
  return codes.map((code) => item(question, String.fromCharCode(code)));
});

describe("a typed line", () => {
  it.each(LINES)("%j is read as the core reads it", (text, labels, unknown) => {
    expect(readLabels(text, MAP)).toMatchObject({ labels, unknown });
  });

  it("that is not on the map brings the nearest labels", () => {
    expect(readLabels("2x", MAP).nearest).toEqual(["2a", "2b", "2c"]);
    expect(readLabels("20", MAP).nearest).toEqual(["2a", "2b", "2c"]);
    expect(readLabels("99", MAP).nearest).toEqual([]);
    expect(readLabels("hello", MAP).nearest).toEqual([]);
  });
});

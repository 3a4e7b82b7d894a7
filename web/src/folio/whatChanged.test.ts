import { describe, expect, it } from "vitest";
import { type Arrangement, setComment, setRemoved, setSides } from "./arrangement";
import { whatChanged } from "./whatChanged";

const laid: Arrangement = {
  order: [1, 2, 3],
  removed: [],
  loose: [],
  placements: { a: [{ page: 1, top: null }] },
  left_blank: [],
  recipes: {},
  dismissed: {},
  sides: null,
  comment: "",
  notes: {}, descriptions: {}, scales: {},
};

describe("what was changed elsewhere", () => {
  it("says nothing of what is the same", () => expect(whatChanged(laid, { ...laid })).toBe(""));
  it("counts pages that came and went", () => {
    expect(whatChanged(laid, setRemoved(2, true)(laid))).toBe("1 page removed");
    expect(whatChanged(setRemoved(2, true)(laid), laid)).toBe("1 page added");
  });
  it("tells another order from pages that went", () => {
    expect(whatChanged(laid, { ...laid, order: [2, 1, 3] })).toBe("another order");
    expect(whatChanged(laid, { ...laid, order: [2, 3], removed: [] })).toBe("1 page removed");
  });
  it("names all that differs", () => {
    const after = setSides(4)(setComment("Hello")({ ...laid, placements: {}, left_blank: ["b"] }));
    expect(whatChanged(laid, after)).toBe("1 question placed otherwise, other questions left blank, the word to the reader and the number of sides");
  });
});

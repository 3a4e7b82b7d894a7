import { expect, test } from "vitest";
import { pieceAt, pieceWith } from "./mathsPiece";

const TEXT = "so $x^2$ and\n$$\n\\frac{a}{b}\n$$\nfor 5 $ each";

test("the piece around the caret is the one that is written anew", () => {
  expect(pieceAt(TEXT, TEXT.indexOf("^"))).toMatchObject({ maths: "x^2", display: false });
  expect(pieceAt(TEXT, TEXT.indexOf("frac"))).toMatchObject({ maths: "\\frac{a}{b}", display: true });
});

test("outside of any, a new one begins where the caret stands", () => {
  for (const caret of [0, 3, 8, TEXT.length]) expect(pieceAt(TEXT, caret)).toEqual({ from: caret, to: caret, maths: "", display: false });
});

test("it keeps its dollars, and nothing leaves nothing", () => {
  expect(pieceWith(pieceAt(TEXT, 4), " y ")).toBe("$y$");
  expect(pieceWith(pieceAt(TEXT, TEXT.indexOf("frac")), "y")).toBe("$$\ny\n$$");
  expect(pieceWith(pieceAt(TEXT, 4), " ")).toBe("");
});

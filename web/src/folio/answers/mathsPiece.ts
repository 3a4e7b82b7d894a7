/** A piece of maths in a text, between its dollars. */
export interface Piece {
  from: number;
  to: number;
  maths: string;
  /** Between two dollars each. */
  display: boolean;
}

/** The piece in which the caret stands, or an empty one there. */
export function pieceAt(text: string, caret: number): Piece {
  for (const found of text.matchAll(/\$\$([\s\S]+?)\$\$|\$([^$\n]+)\$/g)) {
    const [from, to] = [found.index, found.index + found[0].length];
    if (from < caret && caret < to) return { from, to, maths: (found[1] ?? found[2] ?? "").trim(), display: found[1] !== undefined };
  }
  return { from: caret, to: caret, maths: "", display: false };
}

/** The same piece with other maths in it; "" for none. */
export function pieceWith({ display }: Piece, maths: string): string {
  if (maths.trim() === "") return "";
  return display ? `$$\n${maths.trim()}\n$$` : `$${maths.trim()}$`;
}

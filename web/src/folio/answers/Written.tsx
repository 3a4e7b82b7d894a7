import { Prose } from "../Prose";

/** Maths between two dollars each that is alone on its line: it stands by itself, as in the bound document. */
const ONE_LINE = /^[ \t]*\$\$(.+?)\$\$[ \t]*$/gm;

/** What a student typed, as it is read: text with maths. Markup that is none of ours stands as it was typed. */
export function Written({ text }: { text: string }) {
  return <Prose text={text.replace(ONE_LINE, "\n$$$$\n$1\n$$$$\n")} literal />;
}

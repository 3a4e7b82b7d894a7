import { Prose } from "../Prose";

/** What a student typed, as it is read: text with maths. Markup that is none of ours stands as it was typed. */
export function Written({ text }: { text: string }) {
  return <Prose text={text} literal />;
}

import { lazily } from "../shared/ui/later";
import "./Prose.css";

const Marked = lazily(async () => (await import("./MarkedUp")).MarkedUp, "where shown");

/** More than plain words. */
export const MARKED_UP = /[$*_`#[>]|^[-+] |^\d+\. /m;

/**
 * Words in Markdown with formulas between dollars; as they were typed until the formulas' code has come. `literal`: markup
 * of another kind is part of the words ("x <y and y> z") and not left out.
 */
export function Prose({ text, literal = false }: { text: string; literal?: boolean }) {
  const plain = <p className="prose-plain">{text}</p>;
  return <div className="prose">{MARKED_UP.test(text) ? <Marked text={text} literal={literal} meanwhile={plain} /> : plain}</div>;
}

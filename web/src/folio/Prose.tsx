import { lazily } from "../shared/ui/later";
import "./Prose.css";

const Marked = lazily(async () => (await import("./MarkedUp")).MarkedUp, "where shown");

/** More than plain words. */
export const MARKED_UP = /[$*_`#[>]|^[-+] |^\d+\. /m;

/** Words of an instructor, in Markdown with formulas between dollars; as they were typed until the formulas' code has come. */
export function Prose({ text }: { text: string }) {
  const plain = <p className="prose-plain">{text}</p>;
  return <div className="prose">{MARKED_UP.test(text) ? <Marked text={text} meanwhile={plain} /> : plain}</div>;
}

import { type ReactNode, useState } from "react";
import { later } from "./later";

const Explanation = later("Explanation");

/**
 * What is behind a few words: on hover, on focus and by touch; Escape puts it away (WCAG 2.2, 1.4.13). The words are in
 * the first frame; what explains them comes from the component library when it is asked for.
 */
export function Explained({ words, children }: { words: string; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  const [show, hide] = [() => setOpen(true), () => setOpen(false)];
  return (
    // eslint-disable-next-line jsx-a11y/no-static-element-interactions -- what it listens for comes from its button
    <span onMouseEnter={show} onMouseLeave={hide} onFocus={show} onBlur={hide} onKeyDown={(event) => event.key === "Escape" && hide()}>
      {children}
      {open && <Explanation words={words} />}
    </span>
  );
}

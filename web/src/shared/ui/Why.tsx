import { type ReactNode, useState } from "react";
import "./Why.css";

/** What is behind a few words: on hover, on focus and by touch; Escape puts it away (WCAG 2.2, 1.4.13). */
export function Why({ words, children }: { words: string; children: ReactNode }) {
  const [away, setAway] = useState(false);
  const again = () => setAway(false);
  return (
    // eslint-disable-next-line jsx-a11y/no-static-element-interactions -- what it listens for comes from its button
    <span className="why" onMouseLeave={again} onBlur={again} onKeyDown={(event) => event.key === "Escape" && setAway(true)}>
      {children}
      {!away && (
        <span role="tooltip" className="why-words">
          {words}
        </span>
      )}
    </span>
  );
}

import type { Schemas } from "../../shared/api/client";
import { Prose } from "../Prose";
import { choiceName } from "./content";
import "./ReaderAnswer.css";
import { Written } from "./Written";

interface Props {
  answer: Schemas["ScreenAnswerOut"];
  /** Whether it answers the question that is looked at. */
  isAt: boolean;
  keep: (element: HTMLElement | null) => void;
}

/** An answer that was given on the screen, with what was asked. */
export function ReaderAnswer({ answer, isAt, keep }: Props) {
  const { label, title, text, choices, short, unit, written, judged } = answer;
  return (
    <section ref={keep} className={isAt ? "reader-typed reader-typed-at" : "reader-typed"} aria-label={`Answer on the screen to ${label}`}>
      <h3>
        {label} {title && <span>{title}</span>} <span className="soft">on the screen</span>
      </h3>
      {text && (
        <div className="soft">
          <Prose text={text} />
        </div>
      )}
      {choices.length > 0 && (
        <ol className="reader-choices">
          {choices.map((one, at) => (
            <li key={choiceName(at)} className={one.chosen ? "reader-chosen" : undefined}>
              <i aria-hidden="true">{one.chosen ? "×" : ""}</i>
              <b>{choiceName(at)}</b> <Prose text={one.text} />
              {one.chosen && <span className="soft"> chosen</span>}
              {one.right && <span className="soft"> · right</span>}
            </li>
          ))}
        </ol>
      )}
      {short && (
        <p className="reader-short">
          {short} {unit && !short.includes(unit) && <span className="soft">asked for in {unit}</span>}
        </p>
      )}
      {written && <Written text={written} />}
      {judged && (
        <p className="reader-judged">
          {judged.is_right === null ? "Yours to decide" : judged.is_right ? "Right by itself" : "Not right by itself"}:{" "}
          <span className="soft">{judged.words}</span>
        </p>
      )}
    </section>
  );
}

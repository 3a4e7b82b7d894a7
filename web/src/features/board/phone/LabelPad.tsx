import type { Schemas } from "../../../shared/api/client";
import { type Arrangement, isAnswered, isPlaced, openQuestions, pagesOf, pagesWith } from "../../../folio/arrangement";

interface Props {
  questions: Schemas["QuestionOut"][];
  arrangement: Arrangement;
  page: number;
  number: number;
  disabled: boolean;
}

interface PadProps extends Props {
  onToggle: (question: string, on: boolean) => void;
}

interface MoreProps extends Props {
  onLoose: () => void;
  onRunOn: () => void;
  onLeaveBlank: (question: string, blank: boolean) => void;
}

/** The question map as keys for the thumb: a tap says that the question is on this page, or not. */
export function LabelPad({ questions, arrangement, page, number, disabled, onToggle }: PadProps) {
  const order = pagesOf(arrangement);
  const open = new Set(openQuestions(arrangement, questions).map((one) => one.id));
  return (
    <fieldset className="pad" disabled={disabled}>
      <legend className="unseen">On page {number}</legend>
      <div className="pad-keys">
        {questions.map(({ id, label, title }) => {
          const on = isPlaced(arrangement, id, page);
          const others = pagesWith(arrangement, id).filter((other) => other !== page);
          const where = others.map((other) => order.indexOf(other) + 1).join(", ");
          const blank = arrangement.left_blank.includes(id);
          return (
            <button
              key={id}
              type="button"
              className={on ? "pad-key pad-on" : "pad-key"}
              aria-pressed={on}
              title={title}
              onClick={() => onToggle(id, !on)}
            >
              {label} <small>{where ? `p. ${where}` : blank ? "blank" : on ? "" : open.has(id) ? "no page" : "not needed"}</small>
            </button>
          );
        })}
      </div>
    </fieldset>
  );
}

/** What is said of a page beside its questions. */
export function MoreOfPage(props: MoreProps) {
  const { questions, arrangement, page, number, disabled } = props;
  const open = questions.filter((one) => !isAnswered(arrangement, one));
  return (
    <fieldset className="pad" disabled={disabled}>
      <legend className="unseen">More of page {number}</legend>
      <p className="pad-more">
        <button type="button" className="plain" aria-pressed={arrangement.loose.includes(page)} onClick={props.onLoose}>
          {arrangement.loose.includes(page) ? "Not loose" : "Loose page"}
        </button>
        {number > 1 && (
          <button type="button" className="plain" onClick={props.onRunOn}>
            Runs on from page {number - 1}
          </button>
        )}
      </p>
      {open.length > 0 && (
        <details className="pad-blank">
          <summary>Leave questions blank</summary>
          <div className="pad-keys">
            {open.map(({ id, label }) => (
              <button key={id} type="button" className="pad-key" onClick={() => props.onLeaveBlank(id, true)}>
                {label} <small>leave blank</small>
              </button>
            ))}
          </div>
        </details>
      )}
    </fieldset>
  );
}

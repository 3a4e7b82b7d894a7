import { Checkbox, Radio } from "antd";
import type { Schemas } from "../../../shared/api/client";
import { choiceName, type Content } from "../../../folio/answers/content";
import { Prose } from "../../../folio/Prose";
import { Themed } from "../../../shared/ui/Themed";

interface Props {
  question: Schemas["QuestionOut"];
  content: Content;
  disabled: boolean;
  onChange: (chosen: string[]) => void;
}

/** One or several of a list. What was chosen can be taken out again. */
export function ChosenField({ question, content, disabled, onChange }: Props) {
  const { choices, many } = question;
  const known = content.chosen.filter((id) => choices.some((one) => one.id === id));
  const options = choices.map(({ id, text }, at) => ({
    value: id,
    label: (
      <span className="answer-choice">
        <b>{choiceName(at)}</b> <Prose text={text} />
      </span>
    ),
  }));
  const shared = { className: "answer-choices", options, disabled };
  return (
    <Themed>
      <div role="group" aria-label={`Choices of ${question.label}${many ? ", any number of them" : ""}`}>
        <p className="soft answer-hint">{many ? "Choose all that are right." : "Choose one."}</p>
        {many ? (
          <Checkbox.Group {...shared} value={known} onChange={(chosen) => onChange(chosen)} />
        ) : (
          <Radio.Group {...shared} value={known[0] ?? null} onChange={(event) => onChange([String(event.target.value)])} />
        )}
        {!many && known.length > 0 && !disabled && (
          <button type="button" className="plain" onClick={() => onChange([])}>
            Choose none
          </button>
        )}
      </div>
    </Themed>
  );
}

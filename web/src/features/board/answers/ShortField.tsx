import { Input } from "antd";
import { useId, useState } from "react";
import type { Schemas } from "../../../shared/api/client";
import { type Content, SHORT_MOST } from "../../../folio/answers/content";
import { Themed } from "../../../shared/ui/Themed";
import { MathsDialog } from "./MathsDialog";

interface Props {
  question: Schemas["QuestionOut"];
  content: Content;
  disabled: boolean;
  onChange: (short: string) => void;
}

const HINTS = {
  number: (unit: string) => (unit ? `A number with its unit, for example 3.2 ${unit}` : "A number, for example 3.2 or 6.0·10^3"),
  word: () => "A word or a few",
  maths: () => "An expression, for example 12x^2 or sqrt(2gh)",
};

/** A number with its unit, a word, an expression. */
export function ShortField({ question, content, disabled, onChange }: Props) {
  const id = useId();
  const [writing, setWriting] = useState(false);
  const hint = HINTS[question.short](question.unit);
  return (
    <Themed>
      <div className="answer-short">
        <label htmlFor={id}>Answer</label>
        <Input
          id={id}
          value={content.short}
          maxLength={SHORT_MOST}
          disabled={disabled}
          aria-describedby={`${id}-hint`}
          autoComplete="off"
          autoCapitalize="off"
          spellCheck={false}
          onChange={(event) => onChange(event.target.value)}
        />
        <p id={`${id}-hint`} className="soft answer-hint">
          {hint}
        </p>
        {question.short === "maths" && !disabled && (
          <p className="answer-hint">
            <button type="button" className="plain" onClick={() => setWriting(true)}>
              Write it as maths …
            </button>
          </p>
        )}
        {writing && (
          <MathsDialog
            value={content.short}
            format="ascii-math"
            onClose={() => setWriting(false)}
            onDone={(maths) => {
              setWriting(false);
              onChange(maths.slice(0, SHORT_MOST));
            }}
          />
        )}
      </div>
    </Themed>
  );
}

import { Input } from "antd";
import { useDeferredValue, useId, useRef, useState } from "react";
import type { Schemas } from "../../../shared/api/client";
import { type Content, WRITTEN_MOST } from "../../../folio/answers/content";
import { type Piece, pieceAt, pieceWith } from "../../../folio/answers/mathsPiece";
import { Written } from "../../../folio/answers/Written";
import { Themed } from "../../../shared/ui/Themed";
import { MathsButtons } from "./MathsButtons";
import { MathsDialog } from "./MathsDialog";

interface Props {
  question: Schemas["QuestionOut"];
  content: Content;
  disabled: boolean;
  onChange: (written: string) => void;
}

const NEARLY_FULL = 0.9;

/** Text with maths between dollars, and below it how it will be read. The field's own undo goes back. */
export function WrittenField({ question, content, disabled, onChange }: Props) {
  const id = useId();
  const field = useRef<HTMLDivElement>(null);
  const shown = useDeferredValue(content.written);
  const { length } = content.written;
  /** Before, the caret stands nowhere, and what is put in goes to the end. */
  const visited = useRef(false);
  const caret = () => (visited.current ? area()?.selectionStart : undefined) ?? content.written.length;
  const [piece, setPiece] = useState<Piece | null>(null);
  const area = () => field.current?.querySelector("textarea");
  /** Typed as if by hand, so that the field's undo takes it back. */
  const insert = (before: string, after: string) => {
    const text = area();
    if (!text) return;
    if (!visited.current) text.setSelectionRange(text.value.length, text.value.length);
    text.focus();
    const { selectionStart: from, selectionEnd: to, value } = text;
    document.execCommand("insertText", false, before + value.slice(from, to) + after);
    if (from === to) text.setSelectionRange(from + before.length, from + before.length);
  };
  const putIn = (maths: string) => {
    const text = area();
    setPiece(null);
    if (!text || !piece) return;
    text.focus();
    text.setSelectionRange(piece.from, piece.to);
    document.execCommand(maths.trim() === "" ? "delete" : "insertText", false, pieceWith(piece, maths));
  };
  return (
    <Themed>
      <div className="answer-written" ref={field}>
        <label htmlFor={id}>Your answer</label>
        {!disabled && (
          <MathsButtons onInsert={insert} onWrite={() => setPiece(pieceAt(content.written, caret()))} />
        )}
        <Input.TextArea
          id={id}
          value={content.written}
          rows={9}
          disabled={disabled}
          aria-describedby={`${id}-hint`}
          onFocus={() => (visited.current = true)}
          status={length > WRITTEN_MOST ? "error" : ""}
          onChange={(event) => onChange(event.target.value)}
        />
        <p id={`${id}-hint`} className="soft answer-hint">
          Maths stands between dollars: <code>$v^2 = 2gh$</code>; on a line of its own between two each.
          {length > NEARLY_FULL * WRITTEN_MOST && (
            <span className={length > WRITTEN_MOST ? "red" : ""}>
              {" "}
              {length.toLocaleString("en")} of at most {WRITTEN_MOST.toLocaleString("en")} characters.
            </span>
          )}
        </p>
        {piece && <MathsDialog value={piece.maths} format="latex" onDone={putIn} onClose={() => setPiece(null)} />}
        {shown.trim() !== "" && (
          <section className="answer-shown" aria-label={`Answer to ${question.label} as it will be read`}>
            <h3 className="soft">As it will be read</h3>
            <Written text={shown} />
          </section>
        )}
      </div>
    </Themed>
  );
}

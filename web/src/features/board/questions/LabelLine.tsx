import { type Ref, useState } from "react";
import type { Schemas } from "../../../shared/api/client";
import { list } from "../../../shared/words";
import { type Arrangement, pagesWith } from "../../../folio/arrangement";
import "./LabelLine.css";
import { labelOf, labelWords } from "../../../folio/labelWords";
import { readLabels, type Typed } from "../../../folio/readLabels";
import { takesPages } from "../../../folio/answers/content";
import type { Actions } from "../useActions";

interface Props {
  ref: Ref<HTMLInputElement>;
  questions: Schemas["QuestionOut"][];
  arrangement: Arrangement;
  /** The pages in order. */
  ids: readonly number[];
  actions: Actions;
  onKey: (event: React.KeyboardEvent) => boolean;
  onHelp: () => void;
  /** A question that is answered on the screen was named: pages have no place on it. */
  onAnswer: (question: string) => void;
}

/** One line to type on: what is on the chosen page. Shows what it understood, and what Enter will do, before Enter. */
export function LabelLine({ ref, questions, arrangement, ids, actions, onKey, onHelp, onAnswer }: Props) {
  const [text, setText] = useState("");
  const [refusal, setRefusal] = useState("");
  const trimmed = text.trim();
  const goal = /^>\s*(\d+)$/.exec(trimmed)?.[1];
  const typed = readLabels(goal ? "" : trimmed, questions);
  const understood = typed.questions.length > 0 && typed.unknown.length === 0;
  const onPages = typed.questions.filter((id) => questions.some((one) => one.id === id && takesPages(one)));
  const opens = understood && onPages.length === 0 ? typed.questions[0] : undefined;
  const numbers = actions.group.map((id) => ids.indexOf(id) + 1);

  const done = (action: () => void) => {
    setText("");
    setRefusal("");
    action();
  };
  const enter = () => {
    if (goal) done(() => actions.moveTo(Number(goal)));
    else if (trimmed === "") actions.nextOpen();
    else if (opens) done(() => onAnswer(opens));
    else if (understood) done(() => actions.placeHere(onPages));
    else setRefusal(notOnMap(typed, trimmed));
  };
  return (
    <div className="label-line">
      <label htmlFor="label-line">On {numbers.length > 1 ? `pages ${numbers.join(", ")}` : `page ${numbers[0]}`}:</label>
      <input
        id="label-line"
        ref={ref}
        value={text}
        placeholder="2a-c, 4"
        autoComplete="off"
        autoCapitalize="off"
        spellCheck={false}
        enterKeyHint="next"
        onChange={(event) => {
          setText(event.target.value);
          setRefusal("");
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter" && !event.ctrlKey && !event.metaKey) enter();
          else if (event.key === "Escape") done(() => undefined);
          else if (event.key === "_" && understood) {
            event.preventDefault();
            done(() => actions.leaveBlank(typed.questions, true));
          } else if (text === "") onKey(event);
        }}
      />
      {trimmed === "" && !refusal && actions.announcement && (
        <span className="label-line-done soft">
          <span className="label-line-words" data-words={actions.announcement} aria-hidden="true" />{" "}
          {actions.undoable && (
            <button type="button" className="plain" onClick={actions.undo} title="Ctrl Z">
              Take it back
            </button>
          )}
        </span>
      )}
      <span className="label-line-meant" aria-live="polite">
        {refusal && <span className="red">{refusal}</span>}
        {!refusal && goal && `Enter: goes to place ${goal}`}
        {!refusal && !goal && opens && `Enter: opens ${labelOf(opens, questions)}, which is answered on the screen`}
        {!refusal && !goal && !opens && trimmed !== "" && <Meant {...{ typed, questions, arrangement, ids, group: actions.group }} />}
      </span>
      <span className="soft label-line-keys">
        <span className="label-line-next">
          <kbd className="key">Enter</kbd> {trimmed === "" ? "next page not placed" : "place and go on"}{" "}
        </span>
        <button type="button" className="plain" onClick={onHelp}>
          All keys <kbd className="key">?</kbd>
        </button>
      </span>
    </div>
  );
}

interface MeantProps extends Pick<Props, "questions" | "arrangement" | "ids"> {
  typed: Typed;
  group: readonly number[];
}

function Meant({ typed, questions, arrangement, ids, group }: MeantProps) {
  const [only] = typed.questions;
  const title = typed.questions.length === 1 ? questions.find((one) => one.id === only)?.title : "";
  const elsewhere = typed.questions.flatMap((id) => {
    const others = pagesWith(arrangement, id).filter((page) => !group.includes(page));
    return others.length > 0 ? [`${labelOf(id, questions)} is on page ${others.map((page) => ids.indexOf(page) + 1).join(", ")} too`] : [];
  });
  return (
    <>
      {typed.questions.length > 0 && (
        <span className="label-line-chip">
          {labelWords(typed.questions, questions)}
          {title && ` · ${title}`}
        </span>
      )}
      {elsewhere.length > 0 && <span className="soft"> {list(elsewhere)}</span>}
      {typed.unknown.length > 0 && <span className="red"> {notOnMap(typed, "")}</span>}
    </>
  );
}

function notOnMap(typed: Typed, text: string): string {
  const unknown = list(typed.unknown.map((piece) => `“${piece}”`)) || `“${text}”`;
  const nearest = typed.nearest.length > 0 ? ` Nearest: ${list(typed.nearest)}.` : "";
  return `${unknown} is not on the question map.${nearest}`;
}

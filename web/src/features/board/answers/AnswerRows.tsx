import type { GivenQuestion } from "../../../folio/answers/useAnswers";
import { onScreen } from "../../../folio/answers/content";
import "./AnswerRows.css";

interface Props {
  questions: readonly GivenQuestion[];
  words: Readonly<Record<string, string>>;
  chosen: string | null;
  onOpen: (question: string) => void;
}

/** Where there is little room: the questions that are answered on the screen, each with what is in it. */
export function AnswerRows({ questions, words, chosen, onOpen }: Props) {
  if (questions.length === 0) return null;
  return (
    <nav className="answer-rows" aria-label="Answered on the screen">
      {questions.map((one) => (
        <button key={one.id} type="button" aria-current={one.id === chosen} onClick={() => onOpen(one.id)}>
          <strong>{one.label}</strong>{" "}
          {onScreen(one).length > one.given.length ? <span className="not-yet">{words[one.id] || "not answered"}</span> : words[one.id]}
        </button>
      ))}
    </nav>
  );
}

import { useCallback, useEffect, useMemo, useState } from "react";
import type { Schemas } from "../../../shared/api/client";
import type { Arrangement, Change } from "../../../folio/arrangement";
import { NOT_ANSWERED } from "../../../folio/answers/AnswerStore";
import { contentWords, onScreen, takesPages } from "../../../folio/answers/content";
import { keepMathsField } from "../../../folio/answers/keepMathsField";
import { useAnswers } from "../../../folio/answers/useAnswers";
import type { BoardData } from "../../../folio/useBoard";
import { lazily } from "../../../shared/ui/later";

const AnswerPanel = lazily(async () => (await import("./AnswerPanel")).AnswerPanel);

interface Needs {
  arrangement: Arrangement;
  /** Whether answers may still change. */
  open: boolean;
  onPictures: (files: File[], question: string) => void;
  onChange: (change: Change, words: string, joins?: string) => void;
}

/** The questions of the board that are answered on the screen: what is in them, and the one that is open. */
export function useAnswering(board: BoardData, { arrangement, open, onPictures, onChange }: Needs) {
  const { answers, store, questions } = useAnswers(board);
  const here = useMemo(() => questions.filter((one) => onScreen(one).length > 0), [questions]);
  const typed = here.some((one) => onScreen(one).some((kind) => kind !== "chosen"));
  useEffect(() => {
    if (typed) keepMathsField();
  }, [typed]);
  const noPages = here.length > 0 && !questions.some(takesPages);
  const [chosen, setChosen] = useState<string | null>(noPages ? (here[0]?.id ?? null) : null);
  const at = here.findIndex((one) => one.id === chosen);
  const question = here[at];
  const openAnswer = useCallback((id: string) => setChosen(id), []);
  const words = Object.fromEntries(here.map((one) => [one.id, contentWords((answers[one.id] ?? NOT_ANSWERED).content, one)]));
  const panel = question && (
    <AnswerPanel
      folioId={board.id}
      question={question}
      answer={answers[question.id]}
      store={store}
      arrangement={arrangement}
      zone={board.assignment.time_zone}
      kinds={board.limits.kinds}
      disabled={!open}
      before={at > 0}
      after={at < here.length - 1}
      onWalk={(by) => setChosen(here[at + by]?.id ?? null)}
      onClose={noPages ? null : () => setChosen(null)}
      onPictures={(files) => onPictures(files, question.id)}
      onChange={onChange}
    />
  );
  return { questions, here, noPages, words, chosen: question?.id ?? null, panel, openAnswer };
}

/** The first of these labels that is answered on the screen. */
export function answeredOnScreen(questions: readonly Schemas["QuestionOut"][], label: string): string | null {
  return questions.find((one) => one.label === label && onScreen(one).length > 0)?.id ?? null;
}

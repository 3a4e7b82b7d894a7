import { useEffect, useMemo, useSyncExternalStore } from "react";
import type { Schemas } from "../../shared/api/client";
import { answerStore, NOT_ANSWERED } from "./AnswerStore";
import { type AnswerKind, givenOf } from "./content";

type Board = Pick<Schemas["BoardOut"], "id" | "answers" | "questions">;
/** A question with what of it is given on the screen. */
export type GivenQuestion = Schemas["QuestionOut"] & { given: readonly AnswerKind[] };

/** The answers on the screen with what is being typed in them; `questions` know what of them is given. */
export function useAnswers(board: Board) {
  const store = answerStore(board.id, board.answers);
  const answers = useSyncExternalStore(store.subscribe, store.shown);
  useEffect(() => store.hear(board.answers), [board.answers, store]);
  useEffect(() => {
    window.addEventListener("online", store.retry);
    return () => window.removeEventListener("online", store.retry);
  }, [store]);
  // What is given, not each letter that is typed: the rows are drawn anew only where that changes.
  const key = board.questions.map((one) => givenOf((answers[one.id] ?? NOT_ANSWERED).content, one).join()).join(";");
  const questions = useMemo(() => {
    const given = key.split(";");
    return board.questions.map((one, at): GivenQuestion => ({ ...one, given: (given[at] ?? "").split(",").filter(Boolean) as AnswerKind[] }));
  }, [board.questions, key]);
  return { answers, store, questions };
}

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../../shared/api/client";
import { queryKeys } from "../../../shared/queryKeys";
import { clockTime } from "../../../shared/time";
import { type Content, contentWords } from "../../../folio/answers/content";
import type { SavedAnswer } from "../../../folio/answers/sendAnswer";
import { Written } from "../../../folio/answers/Written";

interface Props {
  folioId: number;
  aside: SavedAnswer["set_aside"][number];
  question: Schemas["QuestionOut"];
  zone: string;
  disabled: boolean;
  /** Put it in the place of the answer. */
  onUse: () => void;
}

/** What was typed on another device, on an older answer: nothing of it was mixed in, and nothing is lost. */
export function SetAsideAnswer({ folioId, aside, question, zone, disabled, onUse }: Props) {
  const queries = useQueryClient();
  const dismiss = useMutation({
    mutationFn: () =>
      answer(api.DELETE("/api/folios/{folio_id}/set-aside/{aside_id}", { params: { path: { folio_id: folioId, aside_id: aside.id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: queryKeys.board(folioId) }),
  });
  const content = aside.content as Content;
  return (
    <section className="answer-aside" aria-label="Kept beside">
      <p>
        <strong>Kept beside:</strong> this was typed on another device or in another tab and saved at {clockTime(aside.at, zone, true)}, after
        the answer above had been changed.
      </p>
      <div className="answer-shown">
        {content.written.trim() === "" ? <p>{contentWords(content, question) || "nothing"}</p> : <Written text={content.written} />}
      </div>
      {!disabled && (
        <button type="button" className="button button-small" onClick={onUse}>
          Use this one instead
        </button>
      )}{" "}
      <button type="button" className="plain" disabled={dismiss.isPending} onClick={() => dismiss.mutate()}>
        Not needed
      </button>
    </section>
  );
}

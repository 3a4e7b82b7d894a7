import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answer, api, type Schemas } from "../shared/api/client";
import { queryKeys } from "../shared/queryKeys";
import { savedAnswers } from "./answers/AnswerStore";
import { savedBoard } from "./ArrangementStore";

/**
 * Hands the folio in as it is on the board, and shows the receipt. `newest`: the edition that is known of, or 0;
 * `confirmed`: the words of honour that stand beside the button. It is called with which
 * screen is wanted next: the board, where what is open is placed later.
 */
export function useHandIn(folioId: number, newest: number, confirmed: string) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  return useMutation<Schemas["EditionLine"], Error, "receipt" | "board">({
    mutationFn: async () => {
      await savedAnswers(folioId);
      await savedBoard(folioId); // a word to the reader that was typed last goes along
      const path = { folio_id: folioId };
      return answer(api.POST("/api/folios/{folio_id}/hand-in", { params: { path }, body: { seen_edition: newest, confirmed } }));
    },
    onError: () => {
      void queries.invalidateQueries({ queryKey: queryKeys.board(folioId) });
      void queries.invalidateQueries({ queryKey: queryKeys.receipt(folioId, newest) });
    },
    onSuccess: async (edition, to) => {
      await queries.invalidateQueries({ queryKey: queryKeys.myFolios });
      void queries.invalidateQueries({ queryKey: queryKeys.board(folioId) });
      return navigate(to === "board" ? `/folios/${folioId}` : `/folios/${folioId}/editions/${edition.number}`);
    },
  });
}

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answer, api, type Schemas } from "../shared/api/client";
import { notices } from "../shared/notices";
import { queryKeys } from "../shared/queryKeys";
import { savedBoard } from "./ArrangementStore";

/**
 * Hands the folio in as it is on the board, and shows the receipt. `newest`: the edition that is known of, or 0;
 * `confirmed`: the words of honour that stand beside the button. It is called with the words for
 * until when what is open can still be placed, where the board is wanted again and not the receipt.
 */
export function useHandIn(folioId: number, newest: number, confirmed: string) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  return useMutation<Schemas["EditionLine"], Error, string | null>({
    mutationFn: async () => {
      await savedBoard(folioId); // a word to the reader that was typed last goes along
      const path = { folio_id: folioId };
      return answer(api.POST("/api/folios/{folio_id}/hand-in", { params: { path }, body: { seen_edition: newest, confirmed } }));
    },
    onError: () => {
      void queries.invalidateQueries({ queryKey: queryKeys.board(folioId) });
      void queries.invalidateQueries({ queryKey: queryKeys.receipt(folioId, newest) });
    },
    onSuccess: async (edition, placesLater) => {
      await queries.invalidateQueries({ queryKey: queryKeys.myFolios });
      void queries.invalidateQueries({ queryKey: queryKeys.board(folioId) });
      if (placesLater === null) return navigate(`/folios/${folioId}/editions/${edition.number}`);
      notices.add({
        key: "places later", kind: "info", seconds: 0, title: `Handed in as edition ${edition.number}`,
        description: `Place what is open until ${placesLater}. It goes in by itself then, and counts as of now.`,
      }); // prettier-ignore
      return navigate(`/folios/${folioId}`);
    },
  });
}

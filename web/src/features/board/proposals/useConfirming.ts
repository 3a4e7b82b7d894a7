import type { Arrangement } from "../../../folio/arrangement";
import type { BoardData } from "../../../folio/useBoard";
import { useSuggestion } from "../../../folio/useSuggestion";
import type { Actions } from "../useActions";

/** What the reading suggests, and confirming it: for the chosen page, going on to the next that has any, or all that is sure. */
export function useConfirming(board: BoardData, arrangement: Arrangement, actions: Actions, page: number | undefined, wanted: boolean) {
  const suggestion = useSuggestion(board, arrangement, wanted);
  const confirmHere = () => {
    const here = suggestion?.places.filter((one) => one.page === page) ?? [];
    if (here.length === 0) return actions.announce("Nothing is proposed for this page");
    actions.confirm(here);
    const next = suggestion?.places.find((one) => one.page !== page);
    if (next) actions.look(next.page, actions.confirmed(here));
  };
  const confirmAll = () => {
    const sure = suggestion?.sure ?? [];
    if (sure.length === 0) return actions.announce("Nothing is proposed that is sure");
    actions.confirm(sure);
  };
  return { suggestion, confirmHere, confirmAll };
}

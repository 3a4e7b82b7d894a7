import { useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { answer, api, type Schemas } from "../../shared/api/client";

type Board = Schemas["BoardOut"];
type Page = Schemas["PageOut"];

/** Turns a page by a quarter. The board's own copy is turned at once, so that two quick turns add up. */
export function useTurn(folioId: number) {
  const queries = useQueryClient();
  const { notification } = App.useApp();
  const key = ["board", folioId];
  return async (page: Page, by: 90 | 270) => {
    const turn = ((page.turn + by) % 360) as Schemas["TurnIn"]["turn"];
    queries.setQueryData<Board>(key, (board) => board && { ...board, pages: turned(board.pages, page.id, turn) });
    const path = { folio_id: folioId, page_id: page.id };
    try {
      await answer(api.POST("/api/folios/{folio_id}/pages/{page_id}/turn", { params: { path }, body: { turn } }));
    } catch (error) {
      const description = error instanceof Error ? error.message : "";
      notification.warning({ key: "turn", title: "The page was not turned", description, role: "alert" });
    }
    await queries.invalidateQueries({ queryKey: key });
  };
}

function turned(pages: Page[], id: number, turn: number): Page[] {
  return pages.map((page) => (page.id === id ? { ...page, turn } : page));
}

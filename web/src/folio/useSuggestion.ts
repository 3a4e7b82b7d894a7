import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { type Arrangement, isPlaced, pagesOf, questionsOn } from "./arrangement";
import type { BoardData } from "./useBoard";
import { answer, api, type Schemas } from "../shared/api/client";
import { queryKeys } from "../shared/queryKeys";

export type Place = Schemas["ProposedPlaceOut"];
/** From so sure on, one key confirms all. */
const SURE = 0.9;

export interface Suggestion {
  /** What is proposed and not placed yet, in the order of the pages. */
  places: readonly Place[];
  sure: readonly Place[];
  loose: readonly number[];
  /** Another order of the pages, or none. */
  order: readonly number[];
  missing: readonly string[];
  outside: readonly Schemas["OutsideOut"][];
  /** Read on a page on which others were placed. */
  doubts: readonly Schemas["DoubtOut"][];
  /** Labels that begin an answer on pages that do not follow each other. */
  doubled: readonly Schemas["DoubledOut"][];
  /** Pages that carry another student's number. */
  others: readonly Schemas["OutsideOut"][];
  /** Pages at whose head another assignment is named. */
  elsewhere: readonly Schemas["OutsideOut"][];
  unread: number;
  /** The pages are in their order, whatever the reading thinks. */
  keepOrder: () => void;
}

/** What the reading suggests, of what is still to be said: whatever was placed by hand is not asked about again. */
export function useSuggestion(board: BoardData, arrangement: Arrangement, wanted: boolean): Suggestion | null {
  const [keepsOrder, setKeepsOrder] = useState(() => localStorage.getItem(keptAt(board.id)) === "1");
  const query = useQuery({
    queryKey: queryKeys.suggestion(board.id, board.version, board.suggested, keepsOrder, board.questions.map((one) => one.label).join()),
    enabled: wanted && Boolean(board.suggested) && board.keptAt === null,
    placeholderData: keepPreviousData,
    staleTime: 0, // the same word comes again where what it names was overtaken and made anew
    queryFn: () =>
      answer(
        api.GET("/api/folios/{folio_id}/suggestion", {
          params: { path: { folio_id: board.id }, query: { keeps_order: keepsOrder } },
        }),
      ),
  });
  const { data } = query;
  return useMemo(() => {
    if (!data || !wanted) return null;
    const here = pagesOf(arrangement);
    const at = new Map(here.map((page, index) => [page, index]));
    const isOpen = (page: number) => at.has(page) && questionsOn(arrangement, page).length === 0 && !arrangement.loose.includes(page);
    const places = data.places
      .filter((one) => isOpen(one.page) && !arrangement.left_blank.includes(one.question))
      .toSorted((a, b) => (at.get(a.page) ?? 0) - (at.get(b.page) ?? 0));
    return {
      places,
      sure: places.filter((one) => one.confidence >= SURE),
      loose: data.loose.filter(isOpen),
      order: data.order.length === here.length && data.order.join() !== here.join() && data.order.every((page) => at.has(page)) ? data.order : [],
      missing: data.missing.filter((one) => (arrangement.placements[one] ?? []).length === 0 && !arrangement.left_blank.includes(one)),
      outside: data.outside.filter((one) => at.has(one.page)),
      doubts: data.doubts.filter((one) => at.has(one.page) && !isPlaced(arrangement, one.question, one.page)),
      doubled: data.doubled.filter((one) => one.pages.every((page) => at.has(page))),
      others: data.others.filter((one) => at.has(one.page)),
      elsewhere: data.elsewhere.filter((one) => at.has(one.page)),
      unread: data.unread,
      keepOrder: () => {
        localStorage.setItem(keptAt(board.id), "1");
        setKeepsOrder(true);
      },
    };
  }, [data, wanted, arrangement, board.id]);
}

function keptAt(folioId: number): string {
  return `order kept ${folioId}`;
}

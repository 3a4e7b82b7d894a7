import { queryOptions } from "@tanstack/react-query";
import { answer, api } from "../shared/api/client";
import { queryKeys } from "../shared/queryKeys";

const FRESH_MS = 60_000;

/**
 * An edition as it is read. It never changes; what is said and placed over it does. One still being bound is asked for
 * again until all its pictures are there.
 */
export function editionQuery(folioId: number, number: number) {
  const path = { folio_id: folioId, number };
  return queryOptions({
    queryKey: queryKeys.reading(folioId, number),
    staleTime: FRESH_MS,
    queryFn: () => answer(api.GET("/api/folios/{folio_id}/editions/{number}/reading", { params: { path } })),
    refetchInterval: (query) => (query.state.data?.pages.some((page) => page.image === "") ? 2000 : false),
  });
}

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api } from "../../shared/api/client";
import { correctClock } from "../../shared/time";

const ASK_EVERY_MS = 3000;

/** The board's state, asked for again whenever the server says something changed; asked regularly without that. */
export function useBoard(folioId: number) {
  const queries = useQueryClient();
  const [hearing, setHearing] = useState(false);
  useEffect(() => {
    const news = new EventSource(`/api/folios/${folioId}/news`);
    const ask = () => void queries.invalidateQueries({ queryKey: ["board", folioId] });
    news.onopen = () => {
      setHearing(true);
      ask(); // what happened while nobody listened
    };
    news.onmessage = ask;
    news.onerror = () => setHearing(false);
    return () => news.close();
  }, [folioId, queries]);
  return useQuery({
    queryKey: ["board", folioId],
    refetchInterval: hearing ? 60_000 : ASK_EVERY_MS,
    queryFn: async () => {
      const path = { folio_id: folioId };
      const data = await answer(api.GET("/api/folios/{folio_id}", { params: { path } }));
      correctClock(data.now);
      return data;
    },
  });
}

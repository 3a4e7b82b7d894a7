import { queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answerOrKept, api, type Schemas } from "../shared/api/client";
import { hasAnswer } from "./answers/AnswerStore";
import { correctClock, serverNow } from "../shared/time";
import { queryKeys } from "../shared/queryKeys";

const ASK_EVERY_MS = 3000;
const FIRST_ASK_MS = 800;
const ASK_WHILE_HEARING_MS = 60_000;
const OWN_ANSWER_MS = 300;
/** Of several news in so short a time, the last ones are answered by one asking: mostly they are of what is typed here. */
const NEWS_TOGETHER_MS = 400;

/** The board as the server tells it; `keptAt` where it cannot be reached and this is what it last said. */
export type BoardData = Schemas["BoardOut"] & { keptAt: string | null };

/** The board's state, asked for again whenever the server says something changed; asked regularly without that. */
export function useBoard(folioId: number) {
  const queries = useQueryClient();
  const [hearing, setHearing] = useState(false);
  useEffect(() => {
    const news = new EventSource(`/api/folios/${folioId}/news`);
    let asked = -Infinity;
    let next: ReturnType<typeof setTimeout> | undefined;
    const ask = () => {
      clearTimeout(next);
      const wait = asked + NEWS_TOGETHER_MS - performance.now();
      if (wait > 0) next = setTimeout(ask, wait);
      else {
        asked = performance.now();
        void queries.invalidateQueries({ queryKey: queryKeys.board(folioId) });
      }
    };
    let first: ReturnType<typeof setTimeout> | undefined;
    news.onopen = () => {
      setHearing(true);
      // What happened while nobody listened; at first that is next to nothing, and the board is still being drawn.
      if (first === undefined) first = setTimeout(ask, FIRST_ASK_MS);
      else ask();
    };
    news.onmessage = (event: MessageEvent<string>) => {
      const { answered, version } = JSON.parse(event.data) as { answered?: string; version?: number };
      if (answered === undefined || version === undefined) return ask();
      // The answer to one's own saving may come after the news of it.
      setTimeout(() => hasAnswer(folioId, answered, version) || ask(), OWN_ANSWER_MS);
    };
    news.onerror = () => setHearing(false);
    return () => {
      clearTimeout(first);
      clearTimeout(next);
      news.close();
    };
  }, [folioId, queries]);
  return useQuery({
    ...boardQuery(folioId),
    refetchInterval: (query) => {
      const regularly = hearing ? ASK_WHILE_HEARING_MS : ASK_EVERY_MS;
      return query.state.data ? Math.min(regularly, untilNextPhase(query.state.data.window)) : regularly;
    },
  });
}

export function boardQuery(folioId: number) {
  return queryOptions({
    queryKey: queryKeys.board(folioId),
    queryFn: async (): Promise<BoardData> => {
      const path = { folio_id: folioId };
      const { data, keptAt } = await answerOrKept(api.GET("/api/folios/{folio_id}", { params: { path } }));
      if (!keptAt) correctClock(data.now);
      return { ...data, keptAt };
    },
  });
}

/** Milliseconds until the server will call the phase another; a little later, so that it does. */
function untilNextPhase(window: Schemas["WindowOut"]): number {
  const ends = [window.due, window.writing_ends, window.closes, window.placing_ends, window.asked_until];
  const left = ends.flatMap((end) => (end ? [Date.parse(end) - serverNow()] : [])).filter((ms) => ms > 0);
  return Math.min(...left, ASK_WHILE_HEARING_MS) + 250;
}

type Phase = Schemas["WindowOut"]["phase"];

export function mayAddPages(phase: Phase): boolean {
  return phase === "writing" || phase === "handover" || phase === "late" || phase === "asked_again";
}

/** Order, places and corrections may go on for a while after the close. */
export function mayPlace(phase: Phase): boolean {
  return mayAddPages(phase) || phase === "placing";
}

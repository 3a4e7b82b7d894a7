import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { correctClock } from "../../shared/time";

export type Sitting = Schemas["SittingOut"];
export type Line = Schemas["SittingLine"];
const ASK_EVERY_MS = 30_000; // phases and needs change by the clock alone, too

/** All lines; those that change come by one stream of news. */
export function useSitting(assignmentId: number) {
  const queries = useQueryClient();
  useEffect(() => {
    const news = new EventSource(`/api/assignments/${assignmentId}/sitting/news`);
    const all = () => void queries.invalidateQueries({ queryKey: queryKeys.sitting(assignmentId) });
    news.onopen = all; // what happened while nobody listened, also since the screen was asked for
    news.onmessage = (event) => {
      const said = JSON.parse(event.data as string) as { lines?: Line[]; missed?: boolean };
      if (said.lines) putIn(queries, assignmentId, said.lines);
      else all();
    };
    return () => news.close();
  }, [assignmentId, queries]);
  return useQuery({
    queryKey: queryKeys.sitting(assignmentId),
    queryFn: async () => {
      const path = { assignment_id: assignmentId };
      const data = await answer(api.GET("/api/assignments/{assignment_id}/sitting", { params: { path } }));
      correctClock(data.now);
      return data;
    },
    refetchInterval: ASK_EVERY_MS,
  });
}

function putIn(queries: QueryClient, assignmentId: number, lines: Line[]) {
  queries.setQueryData<Sitting>(queryKeys.sitting(assignmentId), (now) => {
    if (!now) return now;
    const changed = new Map(lines.map((line) => [line.person_id, line]));
    const known = now.lines.map((line) => changed.get(line.person_id) ?? line);
    const added = lines.filter((line) => !now.lines.some((one) => one.person_id === line.person_id));
    return { ...now, lines: [...known, ...added] };
  });
}

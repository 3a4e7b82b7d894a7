import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { correctClock } from "../../shared/time";

const WHILE_DRAWN_MS = 1500;

/** All of an assignment but its map; asked again while its paper is being drawn. */
export function useSettingUp(assignmentId: number) {
  return useQuery({
    queryKey: queryKeys.settingUp(assignmentId),
    queryFn: async () => {
      const path = { assignment_id: assignmentId };
      const data = await answer(api.GET("/api/assignments/{assignment_id}/setting-up", { params: { path } }));
      correctClock(data.now);
      return data;
    },
    refetchInterval: (query) => query.state.data?.paper?.state === "drawing" && WHILE_DRAWN_MS,
  });
}

import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../shared/api/client";
import { queryKeys } from "../shared/queryKeys";

/** Every student of the course with the newest edition, for those who teach it. */
export function useFolioList(assignmentId: number) {
  return useQuery({
    queryKey: queryKeys.folioList(assignmentId),
    refetchInterval: 30_000,
    queryFn: () => {
      const path = { assignment_id: assignmentId };
      return answer(api.GET("/api/assignments/{assignment_id}/folios", { params: { path } }));
    },
  });
}

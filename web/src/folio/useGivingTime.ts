import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../shared/api/client";
import { queryKeys } from "../shared/queryKeys";

/** Minutes for these running sittings, or (null) for all that run; the students see it at once. */
export function useGivingTime(assignmentId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ minutes, folioIds }: { minutes: number; folioIds: number[] | null }) => {
      const path = { assignment_id: assignmentId };
      const body = { minutes, folio_ids: folioIds };
      return answer(api.POST("/api/assignments/{assignment_id}/lengthen", { params: { path }, body }));
    },
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: queryKeys.folioList(assignmentId) }),
        queries.invalidateQueries({ queryKey: queryKeys.sitting(assignmentId) }),
      ]),
  });
}

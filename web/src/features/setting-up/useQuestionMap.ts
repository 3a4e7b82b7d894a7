import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";

export function useQuestionMap(assignmentId: number) {
  return useQuery({
    queryKey: queryKeys.questionMap(assignmentId),
    staleTime: Infinity, // what is being typed must not be taken away
    queryFn: () => {
      const path = { assignment_id: assignmentId };
      return answer(api.GET("/api/assignments/{assignment_id}/question-map", { params: { path } }));
    },
  });
}

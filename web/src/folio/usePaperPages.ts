import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../shared/api/client";
import { queryKeys } from "../shared/queryKeys";

const WHILE_DRAWN_MS = 1500;

/** The pages of the question paper as pictures; asked again while they are being drawn. */
export function usePaperPages(assignmentId: number) {
  return useQuery({
    queryKey: queryKeys.questionPaper(assignmentId),
    queryFn: () => {
      const path = { assignment_id: assignmentId };
      return answer(api.GET("/api/assignments/{assignment_id}/question-paper/pages", { params: { path } }));
    },
    staleTime: 60_000,
    refetchInterval: (query) => (query.state.data?.state === "drawing" ? WHILE_DRAWN_MS : false),
  });
}

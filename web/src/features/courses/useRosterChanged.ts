import { useQueryClient } from "@tanstack/react-query";
import { queryKeys } from "../../shared/queryKeys";

/** After anything that changes who is on the roster. */
export function useRosterChanged(courseId: number) {
  const queries = useQueryClient();
  return () =>
    Promise.all([
      queries.invalidateQueries({ queryKey: queryKeys.people(courseId) }),
      queries.invalidateQueries({ queryKey: queryKeys.course(courseId) }),
    ]);
}

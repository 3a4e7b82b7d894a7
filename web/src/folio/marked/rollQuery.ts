import { queryOptions } from "@tanstack/react-query";
import { answer, api } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";

/**
 * How far the marking of an assignment is, for who marks it. When it is asked for first, the first answers to the
 * question with this label come along: they are drawn while the others are on their way. `began`: when it was asked for.
 */
export function markingQuery(assignmentId: number, label: string) {
  const queryKey = queryKeys.marking(assignmentId);
  return queryOptions({
    queryKey,
    queryFn: async ({ client }) => {
      const began = performance.now();
      const query = client.getQueryData(queryKey) === undefined ? { label } : {};
      const told = await answer(api.GET("/api/assignments/{assignment_id}/marking", { params: { path: { assignment_id: assignmentId }, query } }));
      return { ...told, began };
    },
  });
}

/**
 * Everybody's answer to the question with this label (the first, where there is none), or all answers of one student.
 * `began`: when it was asked for; what was saved since is newer.
 */
export function rollQuery(assignmentId: number, label: string, folioId: number | null) {
  const path = { assignment_id: assignmentId };
  return queryOptions({
    queryKey: queryKeys.markingRoll(assignmentId, folioId === null ? label : `folio ${folioId}`),
    queryFn: async () => {
      const began = performance.now();
      const roll = await (folioId === null
        ? answer(api.GET("/api/assignments/{assignment_id}/marking/answers", { params: { path, query: { label } } }))
        : answer(api.GET("/api/assignments/{assignment_id}/marking/folios/{folio_id}", { params: { path: { ...path, folio_id: folioId } } })));
      return { ...roll, began };
    },
  });
}

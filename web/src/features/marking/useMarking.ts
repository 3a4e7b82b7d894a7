import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useSyncExternalStore } from "react";
import { markingQuery, rollQuery } from "../../folio/marked/rollQuery";
import { answer, api } from "../../shared/api/client";
import { useSignedIn } from "../../shared/me";
import { queryKeys } from "../../shared/queryKeys";
import { MarkingStore } from "./MarkingStore";

const SAY_WHERE_MS = 15_000;
const stores = new Map<string, MarkingStore>();

/** One store for each assignment and marker, for as long as the page is open. */
export function useMarkingStore(assignmentId: number): MarkingStore {
  const { email } = useSignedIn();
  const key = `${assignmentId}-${email}`;
  const store = useMemo(() => {
    const known = stores.get(key) ?? new MarkingStore(key);
    stores.set(key, known);
    return known;
  }, [key]);
  useEffect(() => {
    window.addEventListener("online", store.retry);
    return () => window.removeEventListener("online", store.retry);
  }, [store]);
  return store;
}

export function useMarkingOverview(assignmentId: number, label: string) {
  return useQuery(markingQuery(assignmentId, label));
}

/** `now`: else it waits, for the first answers are to be drawn before the server is busy with all of them. */
export function useRoll(assignmentId: number, label: string, folioId: number | null, now: boolean) {
  return useQuery({ ...rollQuery(assignmentId, label, folioId), enabled: now });
}

/**
 * Says now and then where this person is, hears who else is where, and has the roll fetched anew when anything was
 * marked. `shown`: the word of the last change that the first answers on the screen came with.
 */
export function useAtWork(assignmentId: number, folioId: number | undefined, question: string | undefined, saved: boolean, shown: string | undefined) {
  const queries = useQueryClient();
  const at = useQuery({
    queryKey: queryKeys.atWork(assignmentId, folioId ?? 0, question ?? ""),
    enabled: folioId !== undefined && question !== undefined,
    refetchInterval: SAY_WHERE_MS,
    retry: false,
    queryFn: () =>
      answer(api.PUT("/api/assignments/{assignment_id}/marking/at-work", { params: { path: { assignment_id: assignmentId } }, body: { folio_id: folioId ?? 0, question: question ?? "" } })),
  });
  const changed = at.data?.changed;
  const known = useRef(shown);
  useEffect(() => {
    known.current ??= shown;
    if (changed === undefined || !saved || known.current === changed) return;
    known.current = changed;
    void queries.invalidateQueries({ queryKey: queryKeys.marking(assignmentId) });
    void queries.invalidateQueries({ queryKey: ["marking roll", assignmentId] });
  }, [changed, shown, saved, queries, assignmentId]);
  return at.data?.others ?? [];
}

export function useSaving(store: MarkingStore) {
  return useSyncExternalStore(store.subscribe, store.saving);
}

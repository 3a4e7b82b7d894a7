import { useEffect, useSyncExternalStore } from "react";
import type { Schemas } from "../shared/api/client";
import { notices } from "../shared/notices";
import { arrangementStore } from "./ArrangementStore";

/** The folio's arrangement with the student's own changes in it, and how to change it. */
export function useArrangement(board: Schemas["BoardOut"]) {
  const store = arrangementStore(board.id, board);
  const shown = useSyncExternalStore(store.subscribe, store.shown);
  useEffect(() => store.hear(board), [board, store]);
  useEffect(() => {
    const { refusal } = shown;
    if (!refusal) return;
    const { title, description, dropped } = refusal;
    notices.add({
      key: "arrangement",
      kind: "warning",
      title,
      description: [description, ...dropped.map((words) => `Not done: ${words}.`)].join(" "),
      seconds: 0,
      button: dropped.length > 0 ? { words: "Do it again", press: () => store.again() } : undefined,
    });
    store.refusalSeen();
  }, [shown, store]);
  return { ...shown, store };
}

import { App } from "antd";
import { useEffect, useSyncExternalStore } from "react";
import type { Schemas } from "../../shared/api/client";
import { arrangementStore } from "./ArrangementStore";

/** The folio's arrangement with the student's own changes in it, and how to change it. */
export function useArrangement(board: Schemas["BoardOut"]) {
  const { notification } = App.useApp();
  const store = arrangementStore(board.id, board);
  const shown = useSyncExternalStore(store.subscribe, store.shown);
  useEffect(() => store.hear(board), [board, store]);
  useEffect(() => {
    if (!shown.refusal) return;
    notification.warning({ key: "arrangement", ...shown.refusal, duration: 0, role: "alert" });
    store.refusalSeen();
  }, [notification, shown.refusal, store]);
  return { ...shown, store };
}

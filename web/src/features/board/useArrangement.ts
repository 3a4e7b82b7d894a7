import { App, Button } from "antd";
import { createElement, useEffect, useSyncExternalStore } from "react";
import type { Schemas } from "../../shared/api/client";
import { arrangementStore } from "./ArrangementStore";

/** The folio's arrangement with the student's own changes in it, and how to change it. */
export function useArrangement(board: Schemas["BoardOut"]) {
  const { notification } = App.useApp();
  const store = arrangementStore(board.id, board);
  const shown = useSyncExternalStore(store.subscribe, store.shown);
  useEffect(() => store.hear(board), [board, store]);
  useEffect(() => {
    const { refusal } = shown;
    if (!refusal) return;
    const { title, description, dropped } = refusal;
    const again = () => {
      notification.destroy("arrangement");
      store.again();
    };
    notification.warning({
      key: "arrangement",
      title,
      description: [description, ...dropped.map((words) => `Not done: ${words}.`)].join(" "),
      duration: 0,
      role: "alert",
      actions: dropped.length > 0 && createElement(Button, { onClick: again }, "Do it again"),
    });
    store.refusalSeen();
  }, [notification, shown, store]);
  return { ...shown, store };
}

import { App } from "antd";
import { createElement, useEffect, useSyncExternalStore } from "react";
import { Button } from "../shared/ui/Button";
import { notices } from "../shared/notices";
import { Themed } from "../shared/ui/Themed";

/** Tells what is to be told, at the lower left. */
export default function Notices() {
  return (
    <Themed>
      <Teller />
    </Themed>
  );
}

function Teller() {
  const { notification } = App.useApp();
  const toTell = useSyncExternalStore(notices.subscribe, notices.toTell);
  useEffect(() => {
    if (toTell.length === 0) return;
    for (const { key, kind, title, description, seconds, button } of toTell) {
      const press = () => {
        notification.destroy(key);
        button?.press();
      };
      notification[kind]({
        key,
        title,
        description,
        duration: seconds,
        role: kind === "warning" ? "alert" : "status",
        actions: button && createElement(Button, { small: true, onClick: press }, button.words),
      });
    }
    notices.told(toTell);
  }, [notification, toTell]);
  return null;
}

import { App, ConfigProvider } from "antd";
import { type ReactNode, useSyncExternalStore } from "react";
import { appearance } from "../appearance";
import { darkTheme, lightTheme } from "../theme";
import { nonce } from "./styleNonce";


/** What Ant Design's components need around them. It comes with the first of them: no screen waits for it. */
export function Themed({ children }: { children: ReactNode }) {
  const isDark = useSyncExternalStore(appearance.subscribe, appearance.isDark);
  return (
    <ConfigProvider theme={isDark ? darkTheme : lightTheme} csp={{ nonce }} wave={{ disabled: true }}>
      <App component={false} notification={{ placement: "bottomLeft" }}>
        {children}
      </App>
    </ConfigProvider>
  );
}

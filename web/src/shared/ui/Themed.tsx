import { App, ConfigProvider } from "antd";
import type { ReactNode } from "react";
import { theme } from "../theme";
import { nonce } from "./styleNonce";


/** What Ant Design's components need around them. It comes with the first of them: no screen waits for it. */
export function Themed({ children }: { children: ReactNode }) {
  return (
    <ConfigProvider theme={theme} csp={{ nonce }} wave={{ disabled: true }}>
      <App component={false} notification={{ placement: "bottomLeft" }}>
        {children}
      </App>
    </ConfigProvider>
  );
}

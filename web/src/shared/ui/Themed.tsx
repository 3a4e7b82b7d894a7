import { App, ConfigProvider } from "antd";
import type { ReactNode } from "react";
import { theme } from "../theme";

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? "";

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

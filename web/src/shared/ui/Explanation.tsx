import { Tooltip } from "antd";
import type { ReactElement } from "react";
import { Themed } from "./Themed";

/** What is behind a few words: on hover, on focus and by touch; Escape puts it away (WCAG 2.2, 1.4.13). */
export function Explanation({ words, children }: { words: string; children: ReactElement }) {
  return (
    <Themed>
      <Tooltip title={words} trigger={["hover", "focus", "click"]} placement="bottomRight">
        {children}
      </Tooltip>
    </Themed>
  );
}

import { Tooltip } from "antd";
import type { ReactElement } from "react";
import { Themed } from "./Themed";

/** What is behind a few words: on hover, on focus and by touch. */
export default function Why({ words, children }: { words: string; children: ReactElement }) {
  return (
    <Themed>
      <Tooltip title={words} trigger={["hover", "focus", "click"]}>
        {children}
      </Tooltip>
    </Themed>
  );
}

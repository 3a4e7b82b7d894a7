import { Tooltip } from "antd";
import { Themed } from "./Themed";

/** The words of `Explained`, below what they explain. */
export function Explanation({ words }: { words: string }) {
  return (
    <Themed>
      <Tooltip open title={words} placement="bottomRight">
        <i />
      </Tooltip>
    </Themed>
  );
}

import { Segmented, Tooltip } from "antd";
import { type Chosen, TOOLS } from "./tools";

interface Props {
  tool: Chosen;
  finger: boolean;
  hasTouch: boolean;
  onTool: (tool: Chosen) => void;
  onFinger: (finger: boolean) => void;
}

/** What one draws with, each with its key. */
export function Tools({ tool, finger, hasTouch, onTool, onFinger }: Props) {
  return (
      <div className="marking-tools" role="group" aria-label="Draw with">
        <Segmented<Chosen>
          size="small"
          aria-label="Draw with"
          value={tool}
          onChange={onTool}
          options={TOOLS.map((one) => ({
            value: one.tool,
            label: (
              <Tooltip title={`${one.words}, key ${one.key.toUpperCase()}`}>
                <span>
                  {one.words} <kbd>{one.key.toUpperCase()}</kbd>
                </span>
              </Tooltip>
            ),
          }))}
        />
        {hasTouch && (
          <button type="button" className="plain" aria-pressed={finger} onClick={() => onFinger(!finger)}>
            {finger ? "The finger draws" : "The finger scrolls"}
          </button>
        )}
      </div>
  );
}

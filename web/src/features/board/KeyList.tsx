import { Dialog } from "../../shared/ui/Dialog";
import { KEYS } from "./keys";

export function KeyList({ onClose }: { onClose: () => void }) {
  return (
    <Dialog title="Keys on the board" onClose={onClose}>
      <dl className="key-list">
        {KEYS.map(({ keys, does }) => (
          <div key={does} style={{ display: "contents" }}>
            <dt>
              {keys.map((key) => (
                <kbd key={key} className="key">
                  {key}
                </kbd>
              ))}
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
      <p className="soft dialog-foot">
        They work on the strip, on the empty line below it and on the large page. Labels are understood as ranges, lists and words:
        2a-c, Q4, 2(iii), 2ac.
      </p>
    </Dialog>
  );
}

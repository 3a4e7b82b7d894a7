import type { ReactNode } from "react";
import { Dialog } from "./Dialog";

interface Props {
  title: string;
  keys: readonly { keys: string[]; does: string }[];
  onClose: () => void;
  /** What stands below the list. */
  children?: ReactNode;
}

/** The keys of a screen, and what each does. */
export function KeysDialog({ title, keys, onClose, children }: Props) {
  return (
    <Dialog title={title} onClose={onClose}>
      <dl className="key-list">
        {keys.map((one) => (
          <div key={one.does} style={{ display: "contents" }}>
            <dt>
              {one.keys.map((key) => (
                <kbd key={key} className="key">
                  {key}
                </kbd>
              ))}
            </dt>
            <dd>{one.does}</dd>
          </div>
        ))}
      </dl>
      {children}
    </Dialog>
  );
}

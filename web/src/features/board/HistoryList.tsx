import type { Shown } from "../../folio/ArrangementStore";
import { clockTime } from "../../shared/time";
import { Dialog } from "../../shared/ui/Dialog";

interface Props {
  past: readonly string[];
  future: readonly string[];
  times: Shown["times"];
  zone: string;
  onUndo: (steps: number) => void;
  onRedo: () => void;
  onClose: () => void;
}

/** What was done on this board, newest first, in words and when. */
export function HistoryList({ past, future, times, zone, onUndo, onRedo, onClose }: Props) {
  return (
    <Dialog title="What was done here" onClose={onClose}>
      {past.length + future.length === 0 && <p className="soft">Nothing yet. Each change is noted here and can be undone.</p>}
      <ol className="history">
        {future.map((words, at) => (
          <li key={`f${at}`}>
            <span className="history-undone">
              {said(times.future[at], zone)}
              {words}
            </span>
            {at === future.length - 1 && (
              <button type="button" className="plain" onClick={onRedo}>
                Do it again
              </button>
            )}
          </li>
        ))}
        {past.toReversed().map((words, at) => (
          <li key={`p${past.length - at}`}>
            <span>
              {said(times.past[past.length - 1 - at], zone)}
              {words}
            </span>
            <button type="button" className="plain" onClick={() => onUndo(at + 1)}>
              {at === 0 ? "Undo" : "Undo to before this"}
            </button>
          </li>
        ))}
      </ol>
    </Dialog>
  );
}

function said(at: number | undefined, zone: string) {
  return at !== undefined && <span className="soft">{clockTime(at, zone)} </span>;
}

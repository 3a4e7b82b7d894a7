import { Dialog } from "../../shared/ui/Dialog";

interface Props {
  past: readonly string[];
  future: readonly string[];
  onUndo: (steps: number) => void;
  onRedo: () => void;
  onClose: () => void;
}

/** What was done on this board, newest first, in words. */
export function HistoryList({ past, future, onUndo, onRedo, onClose }: Props) {
  return (
    <Dialog title="What was done here" onClose={onClose}>
      {past.length + future.length === 0 && <p className="soft">Nothing yet. Each change is noted here and can be undone.</p>}
      <ol className="history">
        {future.map((words, at) => (
          <li key={`f${at}`}>
            <span className="history-undone">{words}</span>
            {at === future.length - 1 && (
              <button type="button" className="plain" onClick={onRedo}>
                Do it again
              </button>
            )}
          </li>
        ))}
        {past.toReversed().map((words, at) => (
          <li key={`p${past.length - at}`}>
            <span>{words}</span>
            <button type="button" className="plain" onClick={() => onUndo(at + 1)}>
              {at === 0 ? "Undo" : "Undo to before this"}
            </button>
          </li>
        ))}
      </ol>
    </Dialog>
  );
}

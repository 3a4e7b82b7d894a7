import { KeysDialog } from "../../shared/ui/KeysDialog";
import { KEYS } from "./keys";

export function KeyList({ onClose }: { onClose: () => void }) {
  return (
    <KeysDialog title="Keys on the board" keys={KEYS} onClose={onClose}>
      <p className="soft dialog-foot">
        They work on the strip, on the empty line below it and on the large page. Labels are understood as ranges, lists and words:
        2a-c, Q4, 2(iii), 2ac.
      </p>
    </KeysDialog>
  );
}

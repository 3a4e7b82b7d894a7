import { KeysDialog } from "../../shared/ui/KeysDialog";
import { TOOLS } from "./tools";

const KEYS = [
  { keys: ["2.5", "Enter"], does: "give points, go on to the next answer" },
  { keys: ["↑", "↓"], does: "answer before, answer after; Shift Enter: before" },
  { keys: ["Shift ←", "Shift →"], does: "question before, question after" },
  { keys: ["N"], does: "write a note; Enter keeps it, Shift Enter begins a line" },
  { keys: ["B"], does: "not attempted: no points" },
  { keys: ["W"], does: "whole pages, or only the answer" },
  { keys: ["Ctrl Z", "Ctrl Shift Z"], does: "undo, redo" },
  ...TOOLS.map((one) => ({ keys: [one.key.toUpperCase()], does: `draw: ${one.words.toLowerCase()}` })),
  { keys: ["?"], does: "this list" },
];

export function MarkingKeys({ onClose }: { onClose: () => void }) {
  return <KeysDialog title="Keys while marking" keys={KEYS} onClose={onClose} />;
}

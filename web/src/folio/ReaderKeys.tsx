import { KeysDialog } from "../shared/ui/KeysDialog";

const KEYS = [
  { keys: ["←", "→"], does: "question before, question after" },
  { keys: ["."], does: "the next place of the same answer" },
  { keys: ["Page Down", "Space"], does: "on by a screen; Page Up, Shift Space: back" },
  { keys: ["+", "-"], does: "pages larger, smaller" },
  { keys: ["="], does: "hold: the pictures as they came" },
  { keys: ["?"], does: "this list" },
];
const STUDENTS = { keys: ["Shift ←", "Shift →"], does: "student before, student after, at the same question" };

export function ReaderKeys({ students, onClose }: { students: boolean; onClose: () => void }) {
  return <KeysDialog title="Keys while reading" keys={students ? [STUDENTS, ...KEYS] : KEYS} onClose={onClose} />;
}

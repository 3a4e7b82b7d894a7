import { Dialog } from "../shared/ui/Dialog";

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
  return (
    <Dialog title="Keys while reading" onClose={onClose}>
      <dl className="key-list">
        {(students ? [STUDENTS, ...KEYS] : KEYS).map(({ keys, does }) => (
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
    </Dialog>
  );
}

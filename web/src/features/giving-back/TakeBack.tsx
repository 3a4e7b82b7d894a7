import { useId, useState } from "react";
import type { Schemas } from "../../shared/api/client";
import { Button } from "../../shared/ui/Button";
import { Dialog } from "../../shared/ui/Dialog";
import { TextField } from "../../shared/ui/fields";
import { Trouble } from "../../shared/ui/Trouble";

interface Props {
  line: Schemas["ToGiveBackOut"];
  busy: boolean;
  error: Error | null;
  onClose: () => void;
  onTakeBack: (why: string) => void;
}

/** Marks are taken back only with a word why, which the student reads. */
export function TakeBack({ line, busy, error, onClose, onTakeBack }: Props) {
  const [why, setWhy] = useState("");
  const id = useId();
  return (
    <Dialog title={`Take back the marks of ${line.student}?`} onClose={onClose}>
      <label htmlFor={id}>Why; {line.given?.is_seen ? "the student reads it" : "the student has seen nothing yet"}</label>
      <TextField id={id} takesFocus most={500} value={why} onChange={setWhy} onBlur={() => undefined} />
      {error && <Trouble error={error} />}
      <p className="give-back-foot">
        <Button first busy={busy} disabled={why.trim() === ""} onClick={() => onTakeBack(why)}>
          Take back
        </Button>{" "}
        <Button onClick={onClose}>Leave it</Button>
      </p>
    </Dialog>
  );
}

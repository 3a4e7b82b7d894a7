import { useCallback, useEffect, useState } from "react";
import { lazily } from "../shared/ui/later";

const QuestionPaper = lazily(async () => (await import("./QuestionPaper")).QuestionPaper);

/** The question paper from any screen of a folio: one tap, or the key P, and the same to put it away. */
export function PaperDoor({ assignmentId }: { assignmentId: number }) {
  const [open, setOpen] = useState(false);
  const close = useCallback(() => setOpen(false), []);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== "p" || event.ctrlKey || event.metaKey || event.altKey || typesWords(event.target)) return;
      event.preventDefault();
      setOpen((now) => !now);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <>
      <button type="button" className="plain" aria-expanded={open} title="P" onClick={() => setOpen(!open)}>
        Question paper
      </button>
      {open && <QuestionPaper assignmentId={assignmentId} onClose={close} />}
    </>
  );
}

/** A field in which a P is a letter. The label line takes none, and is where the keyboard usually is. */
function typesWords(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.closest(".label-line")) return target instanceof HTMLInputElement && target.value !== "";
  return target instanceof HTMLTextAreaElement || target instanceof HTMLInputElement || target.isContentEditable;
}

import { useCallback, useEffect, useState } from "react";
import { lazily } from "../shared/ui/later";

const QuestionPaper = lazily(async () => (await import("./QuestionPaper")).QuestionPaper);

/** The question paper from any screen of a folio: one tap or F2 (on the board also P), and the same to put it away. */
export function PaperDoor({ assignmentId }: { assignmentId: number }) {
  const [open, setOpen] = useState(false);
  const close = useCallback(() => setOpen(false), []);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const letter = event.key.toLowerCase() === "p" && !event.ctrlKey && !event.metaKey && !event.altKey;
      if (event.key !== "F2" && !(letter && isOnTheBoard(event.target))) return;
      event.preventDefault();
      setOpen((now) => !now);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <>
      <button type="button" className="plain" aria-expanded={open} title="F2" onClick={() => setOpen(!open)}>
        Question paper
      </button>
      {open && <QuestionPaper assignmentId={assignmentId} onClose={close} />}
    </>
  );
}

/** A single letter is a key only where the board has the focus (WCAG 2.2, 2.1.4), and no letter of a word. */
function isOnTheBoard(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement) || !target.closest(".strip-scroll, .label-line, .panel, .paper")) return false;
  if (target instanceof HTMLTextAreaElement) return false;
  return !(target instanceof HTMLInputElement) || target.type === "range" || target.value === "";
}

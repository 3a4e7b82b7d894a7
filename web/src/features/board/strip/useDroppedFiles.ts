import { useEffect, useState } from "react";

/** Files dropped anywhere on the window, or pasted into it. Returns whether files hang over the window now.
 *  Where none are taken any more, a dropped file must still not open in place of the board. */
export function useDroppedFiles(onFiles: (files: File[]) => void, taken: boolean): boolean {
  const [over, setOver] = useState(false);
  useEffect(() => {
    const holdsFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const onOver = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      setOver(taken);
    };
    const onLeave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false);
    };
    const onDrop = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      setOver(false);
      if (taken) onFiles([...(event.dataTransfer?.files ?? [])]);
    };
    const onPaste = (event: ClipboardEvent) => {
      const files = [...(event.clipboardData?.files ?? [])];
      if (files.length === 0 || !taken) return;
      event.preventDefault();
      onFiles(files);
    };
    window.addEventListener("dragover", onOver);
    window.addEventListener("dragleave", onLeave);
    window.addEventListener("drop", onDrop);
    window.addEventListener("paste", onPaste);
    return () => {
      window.removeEventListener("dragover", onOver);
      window.removeEventListener("dragleave", onLeave);
      window.removeEventListener("drop", onDrop);
      window.removeEventListener("paste", onPaste);
    };
  }, [onFiles, taken]);
  return over;
}

import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import { isToPage, type MathsFormat, type ToField } from "../../../maths-field/messages";
import { appearance } from "../../../shared/appearance";
import { Button } from "../../../shared/ui/Button";
import { Dialog } from "../../../shared/ui/Dialog";

interface Props {
  /** What stands there already. */
  value: string;
  format: MathsFormat;
  onDone: (value: string) => void;
  onClose: () => void;
}

const PATIENCE_MS = 8000;

/** Maths as one would write it: the field stands in a frame with a policy of its own (`maths-field/`). */
export function MathsDialog({ value, format, onDone, onClose }: Props) {
  const frame = useRef<HTMLIFrameElement>(null);
  const [written, setWritten] = useState(value);
  const [state, setState] = useState<"coming" | "there" | "missing">("coming");
  const dark = useSyncExternalStore(appearance.subscribe, appearance.isDark);
  const typed = useRef(value); // at once: Enter may follow before anything is drawn
  const newest = useRef({ onDone, onClose });
  useEffect(() => {
    newest.current = { onDone, onClose };
  });
  useEffect(() => {
    const late = setTimeout(() => setState((now) => (now === "coming" ? "missing" : now)), PATIENCE_MS);
    const hear = (event: MessageEvent<unknown>) => {
      if (event.origin !== window.location.origin || event.source !== frame.current?.contentWindow || !isToPage(event.data)) return;
      const said = event.data;
      if (said.kind === "typed") {
        typed.current = said.value;
        setWritten(said.value);
      } else if (said.kind === "enter") newest.current.onDone(typed.current);
      else if (said.kind === "escape") newest.current.onClose();
      else {
        setState("there");
        const show: ToField = { kind: "show", value: typed.current, format, dark };
        frame.current?.contentWindow?.postMessage(show, window.location.origin);
      }
    };
    window.addEventListener("message", hear);
    return () => {
      clearTimeout(late);
      window.removeEventListener("message", hear);
    };
  }, [format, dark]);
  return (
    <Dialog title="Write maths" onClose={onClose} width={620}>
      <iframe ref={frame} className="maths-frame" src="/maths-field" title="Maths field" />
      {state === "missing" && <p className="red">The maths field cannot be reached just now. Type LaTeX into your answer instead; it is the same.</p>}
      <p className="soft answer-hint">
        Type as you would say it: <kbd className="key">/</kbd> begins a fraction, <kbd className="key">^</kbd> a power, <i>sqrt</i> a root; arrows lead
        out of it. Tab goes on to the buttons.
      </p>
      <p className="maths-foot">
        <Button first disabled={state !== "there"} onClick={() => onDone(written)}>
          Put it in
        </Button>
        <code className="soft">{written}</code>
      </p>
    </Dialog>
  );
}

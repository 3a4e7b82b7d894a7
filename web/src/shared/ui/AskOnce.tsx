import { type ReactNode, type Ref, useId } from "react";
import { Act } from "./Act";
import "./AskOnce.css";

interface Props {
  ref: Ref<HTMLDialogElement>;
  title: string;
  yes: string;
  no: string;
  onYes: () => void;
  children: ReactNode;
}

/** A step that cannot be taken back is asked once. Opened with the dialog's own `showModal`. */
export function AskOnce({ ref, title, yes, no, onYes, children }: Props) {
  const heading = useId();
  return (
    <dialog ref={ref} className="ask-once" aria-labelledby={heading}>
      <h2 id={heading}>{title}</h2>
      <p>{children}</p>
      <form method="dialog">
        <Act type="submit">{no}</Act>
        <Act type="submit" first onClick={onYes}>
          {yes}
        </Act>
      </form>
    </dialog>
  );
}

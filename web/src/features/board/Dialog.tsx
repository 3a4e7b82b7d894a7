import { type ReactNode, useEffect, useId, useRef } from "react";
import "./Dialog.css";

interface Props {
  title: string;
  wide?: boolean;
  onClose: () => void;
  children: ReactNode;
}

/** A sheet over the board: the browser's own modal dialog, closed by Escape, by its button or by a click beside it. */
export function Dialog({ title, wide = false, onClose, children }: Props) {
  const dialog = useRef<HTMLDialogElement>(null);
  const heading = useId();
  useEffect(() => dialog.current?.showModal(), []);
  return (
    // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-noninteractive-element-interactions -- Escape closes it
    <dialog
      ref={dialog}
      className={wide ? "sheet-dialog sheet-wide" : "sheet-dialog"}
      aria-labelledby={heading}
      onClose={onClose}
      onClick={(event) => event.target === dialog.current && dialog.current.close()}
    >
      <header>
        <h2 id={heading}>{title}</h2>
        <button type="button" className="plain" onClick={() => dialog.current?.close()}>
          Close
        </button>
      </header>
      {children}
    </dialog>
  );
}

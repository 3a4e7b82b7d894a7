import { Button } from "antd";
import { type ReactNode, type Ref, useId } from "react";
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
        <Button htmlType="submit">{no}</Button>
        <Button htmlType="submit" type="primary" onClick={onYes}>
          {yes}
        </Button>
      </form>
    </dialog>
  );
}

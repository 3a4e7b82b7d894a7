import { Modal } from "antd";
import type { ReactNode } from "react";
import { Themed } from "./Themed";
import "./Dialog.css";

interface Props {
  title: string;
  /** In pixels; on a narrow screen it is as wide as that. */
  width?: number;
  onClose: () => void;
  children: ReactNode;
}

/** A sheet over the screen, closed by Escape, by its button or by a click beside it. */
export function Dialog({ title, width = 560, onClose, children }: Props) {
  return (
    <Themed>
      <Modal open centered title={title} width={width} footer={null} onCancel={onClose} className="sheet-dialog">
        {children}
      </Modal>
    </Themed>
  );
}

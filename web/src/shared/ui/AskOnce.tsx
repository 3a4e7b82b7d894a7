import { Modal } from "antd";
import type { ReactNode } from "react";
import { Themed } from "./Themed";

export interface Asked {
  title: string;
  yes: string;
  no: string;
  onYes: () => void;
  onNo: () => void;
  children: ReactNode;
}

/** A step that cannot be taken back is asked once. It stands as long as it is drawn. */
export function AskOnce({ title, yes, no, onYes, onNo, children }: Asked) {
  return (
    <Themed>
      <Modal
        open
        centered
        title={title}
        width={460}
        okText={yes}
        cancelText={no}
        onOk={onYes}
        onCancel={onNo}
        className="sheet-dialog"
      >
        {children}
      </Modal>
    </Themed>
  );
}

import { Shooting } from "../../folio/shooting/Shooting";
import { Dialog } from "../../shared/ui/Dialog";

const HERE = {
  offer: "Choose a picture instead",
  label: "A picture for this page",
  without: "No camera can be used here: there is none, or this browser may not use it. A picture can be chosen instead.",
};

interface Props {
  /** The number the next page will have. */
  next: number;
  onKeep: (picture: File) => void;
  onClose: () => void;
}

/** The computer's own camera, held over the sheet or the sheet held before it: one picture after another. */
export function PhotographHere({ next, onKeep, onClose }: Props) {
  return (
    <Dialog title="Photograph here" width={760} onClose={onClose}>
      <Shooting what={`page ${next}`} name={`page-${String(next).padStart(2, "0")}`} keep="Keep this page" own={HERE} onKeep={onKeep} />
      <p className="soft">Pages are on the board as soon as they are kept. Close this when all are taken.</p>
    </Dialog>
  );
}

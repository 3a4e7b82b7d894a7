import { useMemo } from "react";
import { Shooting } from "../../folio/shooting/Shooting";
import { answer, api } from "../../shared/api/client";
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
  folioId: number;
  /** Pages of a printed paper are told as they are framed. */
  tells: boolean;
  onClose: () => void;
}

/** The computer's own camera, held over the sheet or the sheet held before it: one picture after another. */
export function PhotographHere({ next, onKeep, folioId, tells, onClose }: Props) {
  const look = useMemo(() => {
    const params = { path: { folio_id: folioId }, query: { viewer: crypto.randomUUID() } };
    const headers = { "Content-Type": "application/octet-stream" };
    return (jpeg: Blob) =>
      answer(api.PUT("/api/folios/{folio_id}/frame", { params, headers, body: jpeg as never, bodySerializer: (body) => body }));
  }, [folioId]);
  return (
    <Dialog title="Photograph here" width={760} onClose={onClose}>
      <Shooting what={`page ${next}`} name={`page-${String(next).padStart(2, "0")}`} keep="Keep this page" own={HERE} onKeep={onKeep} look={tells ? look : null} />
      <p className="soft">Pages are on the board as soon as they are kept. Close this when all are taken.</p>
    </Dialog>
  );
}

import { answer, api, csrfToken } from "../api/client";
import { patiently } from "../patiently";
import type { Kept } from "./KeptFiles";
import { about, type Address, type Outcome, outcomeOf, type Progress, type Way } from "./outcome";

const pieces = patiently(() => import("./inPieces"));

/** A board's own door. */
function boardAddress(folioId: number): Address {
  const folio = `/api/folios/${folioId}`;
  return { originals: `${folio}/originals`, uploads: `${folio}/uploads`, headers: () => ({ "X-CSRFToken": csrfToken() }) };
}

export function sendFile(kept: Kept, way: Way, progress: Progress): Promise<Outcome> {
  return sendTo(boardAddress(kept.folioId), kept, way, progress);
}

/** In one request where it is no larger than a piece, else in pieces that can be gone on with after a break. */
export async function sendTo(address: Address, kept: Kept, way: Way, progress: Progress): Promise<Outcome> {
  const small = kept.file.size <= way.pieceBytes && kept.uploadUrl === null;
  if (small) return inOneRequest(address, kept, way, progress.onShare);
  const loaded = await pieces().catch(() => null);
  return loaded ? loaded.inPieces(address, kept, way, progress) : "unreachable";
}

/** XMLHttpRequest, because fetch cannot say how far a body has gone. */
function inOneRequest(address: Address, kept: Kept, { seconds }: Way, onShare: (share: number) => void): Promise<Outcome> {
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    const query = new URLSearchParams({ name: kept.file.name, ...about(kept, seconds) });
    request.open("PUT", `${address.originals}?${query}`);
    for (const [name, value] of Object.entries(address.headers())) request.setRequestHeader(name, value);
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (event) => onShare(event.loaded / Math.max(1, event.total));
    request.onerror = () => resolve("unreachable");
    request.onload = () => resolve(outcomeOf(request.status, request.responseText));
    request.send(kept.file);
  });
}

/** Whether the folio's own student is signed in. */
export async function mayReach(folioId: number): Promise<boolean> {
  try {
    await answer(api.GET("/api/folios/{folio_id}", { params: { path: { folio_id: folioId } } }));
    return true;
  } catch {
    return false;
  }
}

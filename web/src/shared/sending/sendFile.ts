import { answer, api, csrfToken, type Schemas, tellSignedOut } from "../api/client";
import { problemFrom } from "../api/problem";
import { patiently } from "../patiently";
import type { Kept } from "./KeptFiles";

export type Outcome =
  | Schemas["AcknowledgedOut"]
  | { message: string }
  | "unreachable"
  | "server trouble"
  | "signed out";

/** `seconds`: from the picture to being safe, where the camera's times let it be told beforehand. */
export interface Way {
  pieceBytes: number;
  seconds: number | null;
}

export interface Progress {
  onShare: (share: number) => void;
  onUploadUrl: (url: string) => void;
}

const pieces = patiently(() => import("./inPieces"));

/** In one request where it is no larger than a piece, else in pieces that can be gone on with after a break. */
export async function sendFile(kept: Kept, way: Way, progress: Progress): Promise<Outcome> {
  const small = kept.file.size <= way.pieceBytes && kept.uploadUrl === null;
  if (small) return inOneRequest(kept, way, progress.onShare);
  const loaded = await pieces().catch(() => null);
  return loaded ? loaded.inPieces(kept, way, progress) : "unreachable";
}

/** What is said of a file to the server, in words of one form for both ways. */
export function about(kept: Kept, seconds: number | null): Record<string, string> {
  return {
    batch: kept.batch,
    number: String(kept.number),
    sha256: kept.sha256,
    ...(seconds !== null && { seconds: seconds.toFixed(1) }),
    ...(kept.insteadOf !== null && { instead_of: String(kept.insteadOf) }),
  };
}

/** XMLHttpRequest, because fetch cannot say how far a body has gone. */
function inOneRequest(kept: Kept, { seconds }: Way, onShare: (share: number) => void): Promise<Outcome> {
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    const query = new URLSearchParams({ name: kept.file.name, ...about(kept, seconds) });
    request.open("PUT", `/api/folios/${kept.folioId}/originals?${query}`);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (event) => onShare(event.loaded / Math.max(1, event.total));
    request.onerror = () => resolve("unreachable");
    request.onload = () => resolve(outcomeOf(request.status, request.responseText));
    request.send(kept.file);
  });
}

export function outcomeOf(status: number, text: string): Outcome {
  const body = parsed(text);
  // A network's own sign-in page answers 200 too: only our acknowledgement makes a file safe.
  if (status >= 200 && status < 300) return isAcknowledged(body) ? body : "unreachable";
  if (status >= 500 || status === 409 || status === 423 || status === 429) return "server trouble";
  if (status === 401) tellSignedOut();
  // 404: somebody else is signed in here now. The file waits for its own student.
  if (status === 401 || status === 404) return "signed out";
  return { message: problemFrom(status, body).message };
}

function isAcknowledged(body: unknown): body is Schemas["AcknowledgedOut"] {
  return typeof body === "object" && body !== null && "sha256" in body && "page_id" in body;
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
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

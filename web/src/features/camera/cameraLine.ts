import type { Schemas } from "../../shared/api/client";
import { Problem, problemFrom } from "../../shared/api/problem";
import { about, type Outcome, outcomeOf } from "../../shared/sending/outcome";
import type { Line } from "../../shared/sending/UploadQueue";

/** The secret of the link: what stands after the # of the address, which no server is sent. */
export function secretOf(hash: string): string {
  return hash.replace(/^#/, "");
}

const NAME = "inked-folio-camera-";

/** The newest link that was opened for a folio here: what an older tab has not sent goes by it. */
function newest(folioId: number): string {
  return localStorage.getItem(NAME + folioId) ?? "";
}
export function remember(folioId: number, secret: string) {
  localStorage.setItem(NAME + folioId, secret);
}

export async function askCamera(secret: string): Promise<Schemas["CameraOut"]> {
  let response: Response;
  try {
    response = await fetch("/api/camera", { headers: { "Folio-Camera": secret } });
  } catch {
    throw new Problem(0, "unreachable", "The server cannot be reached. Pictures taken now are kept on this phone.");
  }
  const body: unknown = await response.json().catch(() => undefined);
  if (!response.ok) throw problemFrom(response.status, body);
  return body as Schemas["CameraOut"];
}

/** Sends pictures by the link instead of a sign-in. A link that has ended keeps them waiting on this phone. */
export function cameraLine(folioId: number): Partial<Line> {
  return {
    send: (kept, { seconds }, { onShare }) =>
      new Promise<Outcome>((resolve) => {
        const request = new XMLHttpRequest();
        request.open("PUT", `/api/camera/originals?${new URLSearchParams({ name: kept.name, ...about(kept, seconds) })}`);
        request.setRequestHeader("Folio-Camera", newest(folioId));
        request.setRequestHeader("Content-Type", "application/octet-stream");
        request.upload.onprogress = (event) => onShare(event.loaded / Math.max(1, event.total));
        request.onerror = () => resolve("unreachable");
        request.onload = () => resolve(ended(request) ? "signed out" : outcomeOf(request.status, request.responseText));
        request.send(kept.file);
      }),
    pledge: () => Promise.resolve("refused"),
    mayReach: () => askCamera(newest(folioId)).then(
      () => true,
      () => false,
    ),
  };
}

function ended(request: XMLHttpRequest): boolean {
  return request.status === 403 && request.responseText.includes('"link_ended"');
}

import { answer, api, csrfToken, type Schemas, tellSignedOut } from "../../shared/api/client";
import { problemFrom } from "../../shared/api/problem";

export type Outcome =
  | Schemas["AcknowledgedOut"]
  | { message: string }
  | "unreachable"
  | "server trouble"
  | "signed out";

/** XMLHttpRequest, because fetch cannot say how far a body has gone. */
export function sendFile(
  folioId: number,
  file: File,
  onShare: (share: number) => void,
  insteadOf: number | null,
): Promise<Outcome> {
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    const about = new URLSearchParams({ name: file.name });
    if (insteadOf !== null) about.set("instead_of", String(insteadOf));
    request.open("PUT", `/api/folios/${folioId}/originals?${about}`);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (event) => onShare(event.loaded / Math.max(1, event.total));
    request.onerror = () => resolve("unreachable");
    request.onload = () => resolve(outcomeOf(request));
    request.send(file);
  });
}

function outcomeOf(request: XMLHttpRequest): Outcome {
  const body = parsed(request.responseText);
  // A network's own sign-in page answers 200 too: only our acknowledgement makes a file safe.
  if (request.status === 200) return isAcknowledged(body) ? body : "unreachable";
  if (request.status >= 500) return "server trouble";
  if (request.status === 401) tellSignedOut();
  // 404: somebody else is signed in here now. The file waits for its own student.
  if (request.status === 401 || request.status === 404) return "signed out";
  return { message: problemFrom(request.status, body).message };
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

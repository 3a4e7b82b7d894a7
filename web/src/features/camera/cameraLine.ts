import type { Schemas } from "../../shared/api/client";
import { Problem, problemFrom } from "../../shared/api/problem";
import { pledged, pledgeOf } from "../../shared/sending/pledge";
import { sendTo } from "../../shared/sending/sendFile";
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
  const headers = () => ({ "Folio-Camera": newest(folioId) });
  const address = { originals: "/api/camera/originals", uploads: "/api/camera/uploads", headers };
  return {
    send: (kept, way, progress) => sendTo(address, kept, way, progress),
    pledge: (_, waiting, sides) => pledged(askPledge(pledgeOf(waiting, sides), headers())),
    mayReach: () => askCamera(newest(folioId)).then(
      () => true,
      () => false,
    ),
  };
}

async function askPledge(body: Schemas["PledgeIn"], headers: Record<string, string>): Promise<Schemas["PledgesOut"]> {
  const response = await fetch("/api/camera/pledge", {
    method: "POST",
    headers: { ...headers, "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
  const said: unknown = await response.json().catch(() => undefined);
  if (!response.ok) throw problemFrom(response.status, said);
  return said as Schemas["PledgesOut"];
}

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
const LAST = "inked-folio-camera";
const JSON_BODY = { "Content-Type": "application/json" };

/** The newest link that was opened for a folio here: what an older tab has not sent goes by it. */
function newest(folioId: number): string {
  return localStorage.getItem(NAME + folioId) ?? "";
}
export function remember(folioId: number, secret: string) {
  localStorage.setItem(NAME + folioId, secret);
  rememberLast(secret);
}

/** The newest link of all: who comes back to the bare address goes on with it. */
export function rememberLast(secret: string) {
  localStorage.setItem(LAST, secret);
}
export function lastSecret(): string {
  return localStorage.getItem(LAST) ?? "";
}

/** By the letters and figures that the computer shows. */
export async function askSecret(letters: string, figures: string): Promise<string> {
  const said = await asked("/api/camera/typed", { method: "POST", body: JSON.stringify({ letters, figures }), headers: JSON_BODY });
  return (said as Schemas["SecretOut"]).secret;
}

export async function sendTestPicture(secret: string, picture: File): Promise<void> {
  await asked("/api/camera/test-picture", { method: "PUT", body: picture, headers: { "Folio-Camera": secret, "Content-Type": "application/octet-stream" } });
}

/** A page that came from this phone, away or back. */
export async function setRemoved(secret: string, page: number, removed: boolean): Promise<void> {
  const body = JSON.stringify({ removed });
  await asked(`/api/camera/pages/${page}`, { method: "PUT", body, headers: { "Folio-Camera": secret, ...JSON_BODY } });
}

/** What a small picture of the viewfinder shows of the printed paper. */
export async function lookThrough(secret: string, viewer: string, jpeg: Blob): Promise<Schemas["SightOut"]> {
  const headers = { "Folio-Camera": secret, "Content-Type": "application/octet-stream" };
  return (await asked(`/api/camera/frame?viewer=${viewer}`, { method: "PUT", body: jpeg, headers })) as Schemas["SightOut"];
}

export async function askCamera(secret: string): Promise<Schemas["CameraOut"]> {
  return (await asked("/api/camera", { headers: { "Folio-Camera": secret } })) as Schemas["CameraOut"];
}

/** Throws Problem; status 0 where the server cannot be reached. */
async function asked(path: string, how: RequestInit): Promise<unknown> {
  let response: Response;
  try {
    response = await fetch(path, how);
  } catch {
    throw new Problem(0, "unreachable", "The server cannot be reached. Pictures taken now are kept on this phone.");
  }
  const body: unknown = await response.json().catch(() => undefined);
  if (!response.ok) throw problemFrom(response.status, body);
  return body;
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
  const how = { method: "POST", headers: { ...headers, ...JSON_BODY }, body: JSON.stringify(body) };
  return (await asked("/api/camera/pledge", how)) as Schemas["PledgesOut"];
}

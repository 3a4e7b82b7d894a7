import { csrfToken, type Schemas } from "../../shared/api/client";
import { Problem, problemFrom } from "../../shared/api/problem";
import { fingerprint } from "../../shared/sending/fingerprint";
import { serverNow } from "../../shared/time";

/** What was found on this device, and when, by the server's clock. `room`: bytes that may be kept; null where unsaid. */
export interface DeviceCheck {
  at: number;
  seconds: number;
  secondsAPage: number;
  room: number | null;
}

const SAMPLE_BYTES = 256 * 1024;
const PAGE_BYTES = 3_000_000; // a photograph of a usual phone
export const LITTLE_ROOM = 200_000_000;
const NAME = "inked-folio-ready-";

/** What was found here before, for this assignment; null where nothing was. */
export function checked(assignmentId: number): DeviceCheck | null {
  try {
    return JSON.parse(localStorage.getItem(NAME + assignmentId) ?? "null") as DeviceCheck | null;
  } catch {
    return null;
  }
}

/** Sends a sample there and back, and looks for room. Throws Problem where it did not arrive whole. */
export async function checkDevice(assignmentId: number): Promise<DeviceCheck> {
  const sample = new Uint8Array(SAMPLE_BYTES);
  for (let at = 0; at < SAMPLE_BYTES; at += 65_536) crypto.getRandomValues(sample.subarray(at, at + 65_536));
  const begun = performance.now();
  const said = (await put(`/api/assignments/${assignmentId}/sending-sample`, new Blob([sample]))) as Schemas["SampleOut"];
  const seconds = (performance.now() - begun) / 1000;
  if (said.sha256 !== (await fingerprint(new Blob([sample])))) throw new Problem(0, "changed", "What was sent did not arrive as it was. Try another network.");
  const { quota, usage } = (await navigator.storage?.estimate?.().catch(() => undefined)) ?? {};
  const room = quota === undefined ? null : quota - (usage ?? 0);
  const found = { at: serverNow(), seconds, secondsAPage: (seconds * PAGE_BYTES) / SAMPLE_BYTES, room };
  try {
    localStorage.setItem(NAME + assignmentId, JSON.stringify(found));
  } catch {
    // a browser that keeps nothing is asked again
  }
  return found;
}

export async function sendTestPicture(assignmentId: number, picture: File): Promise<void> {
  await put(`/api/assignments/${assignmentId}/test-picture`, picture);
}

async function put(path: string, body: Blob): Promise<unknown> {
  const headers = { "X-CSRFToken": csrfToken(), "Content-Type": "application/octet-stream" };
  const response = await fetch(path, { method: "PUT", body, headers }).catch(() => {
    throw new Problem(0, "unreachable", "The server cannot be reached from here just now.");
  });
  const said: unknown = await response.json().catch(() => undefined);
  if (!response.ok) throw problemFrom(response.status, said);
  return said;
}

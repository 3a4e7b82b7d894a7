import { type Schemas, tellSignedOut } from "../api/client";
import { problemFrom } from "../api/problem";
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

/** Where a device sends to, and how it shows that it may. */
export interface Address {
  originals: string;
  uploads: string;
  headers: () => Record<string, string>;
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

/** Our own codes that say a file will never become a page here; no other answer is final. */
const FINAL = new Set([
  "empty",
  "wrong_kind",
  "kind_not_taken",
  "too_large",
  "too_many_pixels",
  "too_many_pages",
  "truncated",
  "encrypted",
  "closed",
  "no_more_room",
]);

/** What an answer of the server means for the file: every way of sending asks here. */
export function outcomeOf(status: number, text: string): Outcome {
  const body = parsed(text);
  // A network's own sign-in page answers 200 too: only our acknowledgement makes a file safe.
  if (status >= 200 && status < 300) return isAcknowledged(body) ? body : "unreachable";
  if (status >= 500 || status === 409 || status === 423 || status === 429) return "server trouble";
  if (status === 401) tellSignedOut();
  // 404: somebody else is signed in here now. The file waits for its own student.
  if (status === 401 || status === 404) return "signed out";
  const problem = problemFrom(status, body);
  if (problem.code === "link_ended") return "signed out"; // a phone's pictures wait for the next link
  // A proxy's 403 or 413 must not cost a student the only copy: what we do not know as our own final word is tried again.
  return FINAL.has(problem.code) ? { message: problem.message } : "server trouble";
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

/**
 * The bound PDF as it was downloaded: the document that is signed, and behind it its receipt. The same rules as in
 * core/folio_core/binding/attaching.py, held to by the same example (core/tests/appended.json).
 */
const HEAD = "<< /Type /EmbeddedFile /Subtype /application#2Fjson /Params << /Size ";
const IN_PRINT = "/AFRelationship /Source /Desc (The signed receipt)";
const TAIL = 4096;
const TRAILER = /trailer <<([^]*)>>\s+startxref\s+(\d+)\s+%%EOF\s*$/;

const utf8 = new TextEncoder();

/** The receipt in the file, as text; null where there is none. */
export function attachedReceipt(file: Uint8Array): string | null {
  const text = new TextDecoder("latin1").decode(file); // a character a byte, so that places are the same
  const head = text.lastIndexOf(HEAD);
  if (head < 0) return null;
  const found = /^(\d+) >> \/Length \d+ >>\nstream\n/.exec(text.slice(head + HEAD.length, head + HEAD.length + 80));
  if (!found) return null;
  const start = head + HEAD.length + found[0].length;
  return new TextDecoder().decode(file.subarray(start, start + Number(found[1])));
}

/** Whether this PDF says of itself that it is a receipt in print, and not the work. Nothing vouches for that. */
export function showsReceipt(file: Uint8Array): boolean {
  return new TextDecoder("latin1").decode(file).includes(IN_PRINT);
}

/** What follows the signed document; null where the document does not end as one of ours. */
export function appended(document: Uint8Array, receiptObject: number, receipt: string): Uint8Array | null {
  const end = document.length;
  const found = TRAILER.exec(String.fromCharCode(...document.subarray(Math.max(0, end - TAIL))));
  if (!found) return null;
  const [, entries = "", tableBefore = ""] = found;
  const body = utf8.encode(receipt);
  const head = utf8.encode(`\n${receiptObject} 0 obj\n${HEAD}${body.length} >> /Length ${body.length} >>\nstream\n`);
  const foot = utf8.encode("\nendstream\nendobj\n");
  const table = `xref\n${receiptObject} 1\n${String(end + 1).padStart(10, "0")} 00000 n \n`;
  const startOfTable = end + head.length + body.length + foot.length;
  // The trailer is repeated byte for byte, whatever bytes the file's identifier has.
  const trailer = latin1(`trailer << /Prev ${tableBefore} ${entries.trim()} >>\nstartxref\n${startOfTable}\n%%EOF\n`);
  return joined([head, body, foot, utf8.encode(table), trailer]);
}

function latin1(text: string): Uint8Array {
  return Uint8Array.from(text, (letter) => letter.charCodeAt(0));
}

function joined(parts: Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

export function sameBytes(one: Uint8Array, other: Uint8Array): boolean {
  return one.length === other.length && one.every((byte, at) => byte === other[at]);
}

const NO_HASHING = "This browser hashes files only on pages opened by https. Open this one so, or choose the signed receipt alone.";

export async function sha256(bytes: Uint8Array): Promise<string> {
  if (!globalThis.crypto?.subtle) throw new Error(NO_HASHING);
  const digest = new Uint8Array(await crypto.subtle.digest("SHA-256", bytes as BufferSource));
  return Array.from(digest, (byte) => byte.toString(16).padStart(2, "0")).join("");
}

export interface SignedFile {
  sha256: string;
  size: number | null;
  receipt_object: number | null;
  receipt: string;
}

/** Whether the PDF is the one that was signed, to its last byte. */
export async function isSignedFile(file: Uint8Array, signed: SignedFile): Promise<boolean> {
  const document = file.subarray(0, signed.size ?? file.length);
  if ((await sha256(document)) !== signed.sha256) return false;
  const rest = file.subarray(document.length);
  if (rest.length === 0) return true;
  const wanted = signed.receipt_object === null ? null : appended(document, signed.receipt_object, signed.receipt);
  return wanted !== null && sameBytes(rest, wanted);
}

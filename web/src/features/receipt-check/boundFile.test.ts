import { describe, expect, it } from "vitest";
import example from "../../../../core/tests/appended.json";
import { appended, attachedReceipt, isSignedFile, sha256 } from "./boundFile";

const bytes = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const document = bytes(example.document);
const whole = bytes(example.document + example.appended);
const signed = async () => ({
  sha256: await sha256(document),
  size: document.length,
  receipt_object: example.receipt_object,
  receipt: example.receipt,
});

describe("the bound file", () => {
  it("is followed by its receipt as the core appends it", () => {
    expect(appended(document, example.receipt_object, example.receipt)).toEqual(bytes(example.appended));
  });

  it("gives its receipt back", () => {
    expect(attachedReceipt(whole)).toBe(example.receipt);
    expect(attachedReceipt(document)).toBeNull();
  });

  it("is the signed one with its receipt and without", async () => {
    expect(await isSignedFile(whole, await signed())).toBe(true);
    expect(await isSignedFile(document, await signed())).toBe(true);
  });

  it("is not the signed one with any byte changed, added or taken away", async () => {
    for (let at = 0; at < whole.length; at += 3) {
      const changed = Uint8Array.from(whole);
      changed[at] = (whole[at] ?? 0) ^ 1;
      expect(await isSignedFile(changed, await signed()), `byte ${at}`).toBe(false);
    }
    expect(await isSignedFile(whole.subarray(0, -1), await signed())).toBe(false);
    expect(await isSignedFile(bytes(`${example.document}${example.appended}\n`), await signed())).toBe(false);
  });

  it("of before receipts were appended is judged whole", async () => {
    const old = { ...(await signed()), size: null, receipt_object: null };
    expect(await isSignedFile(document, old)).toBe(true);
    expect(await isSignedFile(whole, old)).toBe(false);
  });
});

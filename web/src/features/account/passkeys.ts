import { browserSupportsWebAuthn, startAuthentication, startRegistration } from "@simplewebauthn/browser";
import { answer, api } from "../../shared/api/client";

type Made = Parameters<typeof startRegistration>[0]["optionsJSON"];
type Asked = Parameters<typeof startAuthentication>[0]["optionsJSON"];

const NOT_DONE = "The passkey was not used: it was cancelled, or it took too long. Try again.";

/** Browsers offer passkeys only to pages with a name (not a bare address) over TLS, or on this very computer. */
export const passkeysWork = browserSupportsWebAuthn() && globalThis.isSecureContext;

/** Asks the device for a new passkey; its public half as JSON, for the server. */
export async function newPasskey(): Promise<string> {
  const options = (await answer(api.POST("/api/account/passkeys/begin"))) as unknown as Made;
  return JSON.stringify(await inPlainWords(startRegistration({ optionsJSON: options })));
}

/** Signs what the server asked for after a right password; JSON for the server. */
export async function signedByPasskey(options: Record<string, unknown>): Promise<string> {
  return JSON.stringify(await inPlainWords(startAuthentication({ optionsJSON: options as unknown as Asked })));
}

async function inPlainWords<T>(work: Promise<T>): Promise<T> {
  return work.catch((error: unknown) => {
    const known = error instanceof Error && error.name === "InvalidStateError";
    throw new Error(known ? "This device has a passkey for this account already." : NOT_DONE);
  });
}

import createClient from "openapi-fetch";
import { Problem, problemFrom } from "./problem";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

const UNREACHABLE = "The server cannot be reached. Check the network; nothing was lost.";

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

let onSignedOut = () => {};

/** What to do when the server no longer knows who is asking: the sign-in is shown, and all goes on after it. */
export function whenSignedOut(act: () => void) {
  onSignedOut = act;
}
export function tellSignedOut() {
  onSignedOut();
}

const client = createClient<paths>({
  baseUrl: globalThis.location?.origin, // none in the unit tests
  fetch: async (request) => {
    request.headers.set("X-CSRFToken", csrfToken());
    const response = await fetch(request).catch(() => {
      throw new Problem(0, "unreachable", UNREACHABLE);
    });
    if (response.status === 401) tellSignedOut();
    return response;
  },
});
export const api = client;

/** When an answer that came from this browser's memory was the server's; null for one that comes from the server. */
export async function answerOrKept<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<{ data: T; keptAt: string | null }> {
  const settled = await call;
  return { data: await answer(Promise.resolve(settled)), keptAt: settled.response.headers.get("X-Kept-At") };
}

/** Unwraps an answer of the typed client, or throws its Problem. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await call;
  if (!response.ok) throw problemFrom(response.status, error);
  return data as T;
}

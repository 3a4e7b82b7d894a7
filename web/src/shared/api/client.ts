import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

/** A refusal of the server: a code for us, a sentence for the person. `body` is the whole answer. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly body: unknown = undefined,
  ) {
    super(message);
  }
}

const UNREACHABLE = "The server cannot be reached. Check the network; nothing was lost.";

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

const client = createClient<paths>({
  baseUrl: window.location.origin,
  fetch: async (request) => {
    request.headers.set("X-CSRFToken", csrfToken());
    try {
      return await fetch(request);
    } catch {
      throw new Problem(0, "unreachable", UNREACHABLE);
    }
  },
});
export const api = client;

/** Unwraps an answer of the typed client, or throws its Problem. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await call;
  if (!response.ok) throw problemFrom(response.status, error);
  return data as T;
}

export function problemFrom(status: number, body: unknown): Problem {
  const said = (typeof body === "object" && body !== null ? body : {}) as { code?: string; message?: string };
  const fallback = `The server answered with an error (${status}). Try again; nothing was lost.`;
  return new Problem(status, said.code ?? "error", said.message ?? fallback, body);
}

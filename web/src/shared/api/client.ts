import createClient from "openapi-fetch";
import { Problem, problemFrom } from "./problem";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

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

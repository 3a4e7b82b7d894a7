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

export function problemFrom(status: number, body: unknown): Problem {
  const said = (typeof body === "object" && body !== null ? body : {}) as { code?: string; message?: string };
  const fallback = `The server answered with an error (${status}). Try again; nothing was lost.`;
  return new Problem(status, said.code ?? "error", said.message ?? fallback, body);
}

import { api, type Schemas } from "../../shared/api/client";
import { Problem, problemFrom } from "../../shared/api/problem";

/** Something that is not on the server yet, in the order in which it was done. `at`: of which answer. */
export type Wanted =
  | { what: "mark"; at: string; body: Schemas["MarkIn"] }
  | { what: "ink"; at: string; key: string; body: Schemas["InkIn"] }
  | { what: "erase"; at: string; key: string };
export type Row = Schemas["AnswerRow"];
export type Mark = Schemas["MarkOut"];
/** `row`: the answer as it stands now. `theirs`: somebody else marked it meanwhile, and nothing was written. */
export type Sent = { row: Row } | { theirs: Mark } | { done: true } | Problem | "unreachable";

export async function sendMarking(wanted: Wanted): Promise<Sent> {
  try {
    if (wanted.what === "mark") {
      const { data, error, response } = await api.PUT("/api/marks", { body: wanted.body });
      if (data) return { row: data };
      if (response.status === 409 && (error as { code?: string }).code === "stale") return { theirs: (error as Schemas["StaleMarkOut"]).mark };
      return refusal(response.status, error);
    }
    if (wanted.what === "ink") {
      const { data, error, response } = await api.PUT("/api/ink/{key}", { params: { path: { key: wanted.key } }, body: wanted.body });
      return data ? { done: true } : refusal(response.status, error);
    }
    const { error, response } = await api.DELETE("/api/ink/{key}", { params: { path: { key: wanted.key } } });
    return response.ok ? { done: true } : refusal(response.status, error);
  } catch {
    return "unreachable"; // also for an answer that is none of ours
  }
}

function refusal(status: number, error: unknown): Problem | "unreachable" {
  return status >= 500 || status === 401 ? "unreachable" : problemFrom(status, error);
}

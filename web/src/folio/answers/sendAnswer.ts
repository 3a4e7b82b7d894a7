import { api, type Schemas } from "../../shared/api/client";
import { Problem, problemFrom } from "../../shared/api/problem";
import type { Content } from "./content";

export type SavedAnswer = Schemas["AnswerOut"];
/** `stale`: another device changed it since; what was sent is kept beside it. */
export type Sent = { answer: SavedAnswer; stale: boolean } | Problem | "unreachable";

export async function sendAnswer(folioId: number, question: string, version: number, content: Content): Promise<Sent> {
  try {
    const { data, error, response } = await api.PUT("/api/folios/{folio_id}/answers/{question_id}", {
      params: { path: { folio_id: folioId, question_id: Number(question) } },
      body: { version, content },
    });
    if (data) return { answer: data, stale: false };
    if (response.status === 409) return { answer: (error as Schemas["StaleAnswerOut"]).answer, stale: true };
    const problem = problemFrom(response.status, error);
    // Not signed in, or as somebody else: it waits until its student is back.
    const waits = response.status >= 500 || response.status === 401 || (response.status === 404 && problem.code !== "no_question");
    return waits ? "unreachable" : problem;
  } catch {
    return "unreachable"; // also for an answer that is none of ours
  }
}

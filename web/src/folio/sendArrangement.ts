import { api, type Schemas } from "../shared/api/client";
import { Problem, problemFrom } from "../shared/api/problem";
import type { Arrangement } from "./arrangement";

export interface Saved {
  version: number;
  arrangement: Arrangement;
  /** How it differs from what was handed in last. */
  changed: Schemas["ChangedOut"] | null;
}
/** While the folio's student is not signed in (401), or somebody else is (404), it is unreachable: the change waits. */
export type Outcome = { saved: Saved; stale: boolean; message: string } | Problem | "unreachable";

export async function sendArrangement(folioId: number, version: number, wanted: Arrangement): Promise<Outcome> {
  try {
    const { data, error, response } = await api.PUT("/api/folios/{folio_id}/arrangement", {
      params: { path: { folio_id: folioId } },
      body: { version, arrangement: wanted },
    });
    if (data) return { saved: data, stale: false, message: "" };
    if (response.status === 409) {
      const newer = error as Schemas["StaleOut"];
      const { version, arrangement, changed, message } = newer;
      return { saved: { version, arrangement, changed }, stale: true, message };
    }
    const waits = response.status >= 500 || response.status === 401 || response.status === 404;
    return waits ? "unreachable" : problemFrom(response.status, error);
  } catch {
    return "unreachable"; // also for an answer that is none of ours
  }
}

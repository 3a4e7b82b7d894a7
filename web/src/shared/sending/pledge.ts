import { answer, api, type Schemas } from "../api/client";
import { Problem } from "../api/problem";
import type { Kept } from "./KeptFiles";

/** The server's answer; "refused" is final for this sitting; "later" is to be tried again. */
export type Pledged = Schemas["PledgeOut"][] | "refused" | "later";

/** Send the fingerprints of files that wait: a few hundred bytes that get through where photographs do not. */
export async function pledge(folioId: number, waiting: readonly Kept[]): Promise<Pledged> {
  const pages = waiting.map((kept) => ({ sha256: kept.sha256, size: kept.file.size, file_name: kept.file.name }));
  try {
    const path = { folio_id: folioId };
    return await answer(api.POST("/api/folios/{folio_id}/pledge", { params: { path }, body: { pages } }));
  } catch (error) {
    return error instanceof Problem && [403, 422].includes(error.status) ? "refused" : "later";
  }
}

import { answer, api, type Schemas } from "../api/client";
import { Problem } from "../api/problem";
import type { Kept } from "./KeptFiles";

/** The server's answer; "refused" is final for this sitting; "later" is to be tried again. */
export type Pledged = Schemas["PledgesOut"] | "refused" | "later";

/** Send the fingerprints of files that wait: a few hundred bytes that get through where photographs do not. */
export function pledge(folioId: number, waiting: readonly Kept[], sides: number | null): Promise<Pledged> {
  const path = { folio_id: folioId };
  return pledged(answer(api.POST("/api/folios/{folio_id}/pledge", { params: { path }, body: pledgeOf(waiting, sides) })));
}

export function pledgeOf(waiting: readonly Kept[], sides: number | null): Schemas["PledgeIn"] {
  return { sides, pages: waiting.map((kept) => ({ sha256: kept.sha256, size: kept.file.size, file_name: kept.file.name })) };
}

export async function pledged(asked: Promise<Schemas["PledgesOut"]>): Promise<Pledged> {
  try {
    return await asked;
  } catch (error) {
    return error instanceof Problem && [403, 422].includes(error.status) ? "refused" : "later";
  }
}

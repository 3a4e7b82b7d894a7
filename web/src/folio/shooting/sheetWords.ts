import type { Schemas } from "../../shared/api/client";

export type Sight = Schemas["SightOut"];

/** What is said of the printed sheet in the viewfinder; nothing while it is not surely told which page that is. */
export function sheetWords({ page, pages, is_here, to_come }: Sight): string {
  if (page === null) return "";
  const seen = `Page ${page} of the paper's ${pages}${is_here ? ", which is on the board already" : ""}`;
  const others = to_come?.filter((one) => one !== page) ?? [];
  if (others.length > 0) return `${seen} · still to come: ${others.join(", ")}`;
  return to_come !== null && !is_here ? `${seen} · the last one` : seen;
}

import type { Schemas } from "../shared/api/client";

type Named = Pick<Schemas["PageOut"], "file_name" | "index" | "of" | "half">;

/** The file a page came from, and which page of it. */
export function pageName(page: Named): string {
  const parts = [page.file_name];
  if (page.of > 1) parts.push(`page ${page.index + 1} of ${page.of}`);
  if (page.half) parts.push(`${page.half} page of an open book`);
  return parts.join(", ");
}

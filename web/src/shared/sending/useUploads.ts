import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { useSignedIn } from "../me";
import { count } from "../words";
import { uploadQueue } from "./queues";
import { onTheWay, type Upload } from "./UploadQueue";
import { queryKeys } from "../queryKeys";

/** The folio's files on their way; the board is asked for again whenever one is safe. */
export function useUploads(folioId: number, window?: { closes: string; pledges_end: string }, sides: number | null = null) {
  const { email } = useSignedIn();
  const queue = uploadQueue(folioId, email);
  const uploads = useSyncExternalStore(queue.subscribe, queue.uploads);
  const queries = useQueryClient();
  const safe = uploads.filter((one) => one.state === "safe").length;
  useEffect(() => {
    if (safe > 0) void queries.invalidateQueries({ queryKey: queryKeys.board(folioId) });
  }, [safe, folioId, queries]);
  const [closes, pledgesEnd] = [Date.parse(window?.closes ?? ""), Date.parse(window?.pledges_end ?? "")];
  useEffect(() => {
    if (closes) queue.tellLimits({ closes, pledgesEnd }, sides);
  }, [queue, closes, pledgesEnd, sides]);
  return { uploads, queue };
}

/** Of a board's pages, as far as its safety is told. */
interface Told {
  id: number;
  state: "waiting" | "ready" | "failed";
  preview: string;
}

/** Whether everything is on the server, in words that are true at each moment: of what arrived and could not be looked
 *  at yet, nobody knows whether it can be opened. `all`: the pages the server
 *  knows, `laid`: those of them that are in the order. */
export function safety(all: readonly Told[], laid: readonly number[], uploads: readonly Upload[]): string {
  const coming = onTheWay(uploads);
  const here = coming.filter((one) => one.state === "on this device").length;
  if (coming.length > 0 && here === coming.length) return `${count(here, "file")} still on this device`;
  if (coming.length > 0) return `${count(coming.length, "file")} on the way`;
  const known = new Set(all.map((page) => page.id));
  const unseen = uploads.filter((one) => one.state === "safe" && one.pageId !== null && !known.has(one.pageId)).length;
  const pages = all.filter((page) => laid.includes(page.id));
  const unopened = pages.filter((page) => page.state === "waiting" && page.preview === "").length + unseen;
  if (unopened > 0) return `${count(pages.length + unseen, "page")} safe, ${unopened} still being opened`;
  return pages.length === 0 ? "no pages yet" : pages.length === 1 ? "1 page safe" : `all ${pages.length} pages safe`;
}

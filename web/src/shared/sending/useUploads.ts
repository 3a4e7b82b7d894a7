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

/** Whether everything is on the server, in words. */
export function safety(pages: number, uploads: readonly Upload[]): string {
  const coming = onTheWay(uploads);
  const here = coming.filter((one) => one.state === "on this device").length;
  if (coming.length > 0 && here === coming.length) return `${count(here, "file")} still on this device`;
  if (coming.length > 0) return `${count(coming.length, "file")} on the way`;
  return pages === 0 ? "no pages yet" : pages === 1 ? "1 page safe" : `all ${pages} pages safe`;
}

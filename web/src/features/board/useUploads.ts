import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { count } from "../../shared/words";
import { onTheWay, type Upload, uploadQueue } from "./UploadQueue";

/** The folio's files on their way; the board is asked for again whenever one is safe. */
export function useUploads(folioId: number) {
  const queue = uploadQueue(folioId);
  const uploads = useSyncExternalStore(queue.subscribe, queue.uploads);
  const queries = useQueryClient();
  const safe = uploads.filter((one) => one.state === "safe").length;
  useEffect(() => {
    if (safe > 0) void queries.invalidateQueries({ queryKey: ["board", folioId] });
  }, [safe, folioId, queries]);
  return { uploads, queue };
}

/** Whether everything is on the server, in words. */
export function safety(pages: number, uploads: readonly Upload[]): string {
  const coming = onTheWay(uploads).length;
  if (coming > 0) return `${count(coming, "file")} on the way`;
  return pages === 0 ? "no pages yet" : pages === 1 ? "1 page safe" : `all ${pages} pages safe`;
}

import { useEffect, useRef } from "react";
import type { Upload } from "../../../shared/sending/UploadQueue";

/** On a phone a page that was just photographed is the one whose questions are asked for. */
export function useNewestPage(on: boolean, uploads: readonly Upload[], here: ReadonlyMap<number, unknown>, look: (page: number) => void) {
  const seen = useRef<Set<string> | null>(null);
  useEffect(() => {
    const arrived = uploads.filter((one) => one.pageId !== null && here.has(one.pageId) && one.message === "");
    const before = seen.current;
    seen.current = new Set([...(before ?? []), ...arrived.map((one) => one.key)]);
    const newest = before && arrived.filter((one) => !before.has(one.key) && one.insteadOf === null).at(-1);
    if (on && newest?.pageId) look(newest.pageId);
  });
}

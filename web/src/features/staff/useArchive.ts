import { useEffect, useRef, useState } from "react";

export type ArchiveKind = "bound" | "questions" | "originals";

interface ArchiveProgress {
  /** What was asked for last, or nothing yet. */
  what: ArchiveKind | null;
  written: number;
  /** 0: not known yet. */
  of: number;
  isStarting: boolean;
}

const NOTHING: ArchiveProgress = { what: null, written: 0, of: 0, isStarting: false };

/** Fetches an archive as a download of the browser's, and hears from the server how far its writing is. */
export function useArchive(assignmentId: number) {
  const [progress, setProgress] = useState(NOTHING);
  const news = useRef<EventSource>(null);
  useEffect(() => () => news.current?.close(), []);

  function fetch(what: ArchiveKind) {
    news.current?.close();
    const word = crypto.randomUUID().replaceAll("-", "");
    const path = `/api/assignments/${assignmentId}/folios.zip`;
    const heard = new EventSource(`${path}/news?watch=${word}`);
    news.current = heard;
    setProgress({ ...NOTHING, what, isStarting: true });
    let isAsked = false;
    const download = () => {
      if (isAsked) return;
      isAsked = true;
      setProgress((now) => ({ ...now, isStarting: false }));
      const link = document.createElement("a");
      link.href = `${path}?what=${what}&watch=${word}`;
      link.download = ""; // a refusal is a download that failed, and no other page
      link.click();
    };
    heard.onmessage = (event) => {
      const said = JSON.parse(event.data as string) as { listening?: boolean; written?: number; of?: number };
      if (said.listening) return download();
      const { written = 0, of = 0 } = said;
      setProgress((now) => ({ ...now, written, of }));
      if (written === of) heard.close();
    };
    heard.onerror = () => {
      if (!isAsked) setProgress(NOTHING); // without news the browser's own display has to do
      download();
    };
  }

  return { ...progress, fetch };
}

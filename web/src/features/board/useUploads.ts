import { useCallback, useEffect, useRef, useState } from "react";
import { csrfToken, type Schemas } from "../../shared/api/client";
import { problemFrom } from "../../shared/api/problem";
import { size } from "../../shared/words";

/** One chosen file on its way. A safe one leaves the list once the board shows its page. */
export interface Upload {
  key: number;
  file: File;
  state: "on this device" | "on its way" | "waiting for the network" | "safe" | "refused";
  share: number;
  message: string;
  pageId: number | null;
}
const RETRY_MS = 2500;
const byName = new Intl.Collator("en", { numeric: true, sensitivity: "base" });
let nextKey = 1;

/** Sends files one after another, so that pages land in the order they were chosen; goes on by itself after a lost network. */
export function useUploads(folioId: number, limits: Schemas["LimitsOut"], onSafe: () => void) {
  const [uploads, setUploads] = useState<readonly Upload[]>([]);
  const queue = useRef<Upload[]>([]);
  const busy = useRef(false);

  const show = useCallback((key: number, news: Partial<Upload>) => {
    setUploads((all) => all.map((one) => (one.key === key ? { ...one, ...news } : one)));
  }, []);

  const work = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    for (let next = queue.current[0]; next; next = queue.current[0]) {
      const { key, file } = next;
      show(key, { state: "on its way", share: 0 });
      const outcome = await send(folioId, file, (share) => show(key, { share }));
      if (outcome === "unreachable") {
        show(key, { state: "waiting for the network" });
        await new Promise((done) => setTimeout(done, RETRY_MS));
        continue;
      }
      queue.current.shift();
      if ("page_id" in outcome) {
        const message = outcome.already ? "The same file is here already; no second page was made." : "";
        show(key, { state: "safe", share: 1, pageId: outcome.page_id, message });
        onSafe();
      } else {
        show(key, { state: "refused", message: outcome.message });
      }
    }
    busy.current = false;
  }, [folioId, onSafe, show]);

  const add = useCallback(
    (files: readonly File[]) => {
      const sorted = [...files].sort((a, b) => byName.compare(a.name, b.name));
      const fresh = sorted.map((file): Upload => {
        const tooLarge = file.size > limits.file_bytes;
        return {
          key: nextKey++,
          file,
          state: tooLarge ? "refused" : "on this device",
          share: 0,
          message: tooLarge
            ? `This file has ${size(file.size)}; at most ${size(limits.file_bytes)} are taken. Take the picture at a normal size, or split the PDF.`
            : "",
          pageId: null,
        };
      });
      setUploads((all) => [...all, ...fresh]);
      queue.current.push(...fresh.filter((one) => one.state !== "refused"));
      void work();
    },
    [limits.file_bytes, work],
  );
  const dismiss = useCallback((key: number) => setUploads((all) => all.filter((one) => one.key !== key)), []);

  const unsafe = uploads.some((one) => one.state !== "safe" && one.state !== "refused");
  useEffect(() => {
    if (!unsafe) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [unsafe]);

  return { uploads, add, dismiss, unsafe };
}

type Outcome = Schemas["AcknowledgedOut"] | { message: string } | "unreachable";

/** XMLHttpRequest, because fetch cannot say how far a body has gone. */
function send(folioId: number, file: File, onShare: (share: number) => void): Promise<Outcome> {
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    request.open("PUT", `/api/folios/${folioId}/originals?name=${encodeURIComponent(file.name)}`);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = (event) => onShare(event.loaded / Math.max(1, event.total));
    request.onerror = () => resolve("unreachable");
    request.onload = () => {
      const body = parsed(request.responseText);
      if (request.status === 200) resolve(body as Schemas["AcknowledgedOut"]);
      else if (request.status >= 500) resolve("unreachable");
      else resolve({ message: problemFrom(request.status, body).message });
    };
    request.send(file);
  });
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

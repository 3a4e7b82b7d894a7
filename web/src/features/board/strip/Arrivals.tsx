import { useState } from "react";
import type { Schemas } from "../../shared/api/client";
import { list } from "../../shared/words";
import type { Upload } from "../../shared/sending/UploadQueue";
import "./Arrivals.css";

/** The notices that were dismissed in this browser; they do not come back with the next visit. */
const READ = "inked-folio-notices-read";

function readBefore(): number[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(READ) ?? "[]");
    return Array.isArray(kept) ? kept.map(Number) : [];
  } catch {
    return [];
  }
}

interface Props {
  uploads: readonly Upload[];
  pages: Schemas["PageOut"][];
  removed: Schemas["PageOut"][];
  onDismiss: (key: string) => void;
  onRestore: (page: number) => void;
}

/** Files that did not become pages, each with its reason, and pages that were removed. Nothing, when all is well. */
export function Arrivals({ uploads, pages, removed, onDismiss, onRestore }: Props) {
  const [read, setRead] = useState(readBefore);
  const told = uploads.filter((one) => one.state === "refused");
  const again = uploads.filter((one) => one.state === "safe" && one.message !== "");
  const dismiss = (page: number) => {
    const now = [...read, page];
    setRead(now);
    try {
      localStorage.setItem(READ, JSON.stringify(now));
    } catch {
      // a browser that keeps nothing shows them again at the next visit
    }
  };
  const failed = pages.filter((page) => page.state === "failed" && !read.includes(page.id));
  if (told.length + again.length + failed.length + removed.length === 0) return null;
  return (
    <ul className="arrivals" aria-label="Files that need a look">
      {told.map((one) => (
        <li key={`u${one.key}`} role="alert">
          <span>
            <strong className="red">{one.file.name}</strong> {one.message}
          </span>
          <button type="button" className="plain" onClick={() => onDismiss(one.key)}>
            Dismiss<span className="unseen"> {one.file.name}</span>
          </button>
        </li>
      ))}
      {again.length > 0 && (
        <li>
          <span className="soft">
            Here already, no second page made: {list(again.map((one) => one.file.name))}.
          </span>
          <button type="button" className="plain" onClick={() => again.forEach((one) => onDismiss(one.key))}>
            Dismiss<span className="unseen"> the files that were here already</span>
          </button>
        </li>
      )}
      {failed.map((page) => (
        <li key={`p${page.id}`} role="alert">
          <span>
            <strong className="red">
              {page.file_name}
              {page.of > 1 && `, page ${page.index + 1}`}
            </strong>{" "}
            {page.message}
          </span>
          <button type="button" className="plain" onClick={() => dismiss(page.id)}>
            Dismiss<span className="unseen"> {page.file_name}</span>
          </button>
        </li>
      ))}
      {removed.map((page) => (
        <li key={`r${page.id}`}>
          <span className="soft">
            Removed: {page.file_name}
            {page.of > 1 && `, page ${page.index + 1}`}. It is kept and will not be handed in.
          </span>
          <button type="button" className="plain" onClick={() => onRestore(page.id)}>
            Restore<span className="unseen"> {page.file_name}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

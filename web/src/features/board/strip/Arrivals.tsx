import { useState } from "react";
import type { Schemas } from "../../../shared/api/client";
import type { Upload } from "../../../shared/sending/UploadQueue";
import { lazily } from "../../../shared/ui/later";
import { count } from "../../../shared/words";
import "./Arrivals.css";

const ArrivalsDialog = lazily(async () => (await import("./ArrivalsDialog")).ArrivalsDialog);
/** The notices that were dismissed in this browser; they do not come back with the next visit. */
const READ = "inked-folio-notices-read";

export interface ArrivalsProps {
  uploads: readonly Upload[];
  pages: Schemas["PageOut"][];
  /** Pages that were removed; those that another picture stands for are left out. */
  removed: Schemas["PageOut"][];
  /** How much the folio's files may take, where it is nearly used up. */
  room: Schemas["RoomOut"] | null;
  onDismiss: (key: string) => void;
  onRestore: (page: number) => void;
}

/** Files that did not become pages, and pages that were removed: one line however many there are, opened on demand. */
export function Arrivals({ uploads, pages, removed, room, onDismiss, onRestore }: ArrivalsProps) {
  const [read, setRead] = useState(readBefore);
  const [open, setOpen] = useState(false);
  const refused = uploads.filter((one) => one.state === "refused");
  const again = uploads.filter((one) => one.state === "safe" && one.message !== "");
  const failed = pages.filter((page) => page.state === "failed" && !read.includes(page.id));
  const gone = removed.filter((page) => !read.includes(page.id));
  const lost = refused.length + failed.length;
  const unpromised = uploads.filter((one) => one.overSides && one.state !== "safe").length;
  const facts = [
    room && `Nearly full: ${room.files} of ${room.most_files} files, ${room.megabytes} of ${room.most_megabytes} MB`,
    unpromised > 0 && `${count(unpromised, "file")} on this device not promised: say at “Sides written” how many there are`,
    gone.length > 0 && `${count(gone.length, "page")} removed`,
    lost > 0 && `${count(lost, "file")} could not be added`,
    again.length > 0 && `${count(again.length, "file")} here already`,
  ].filter(Boolean);
  const dismiss = () => {
    [...refused, ...again].forEach((one) => onDismiss(one.key));
    const now = [...read, ...failed.map((page) => page.id), ...gone.map((page) => page.id)];
    setRead(now);
    setOpen(false);
    try {
      localStorage.setItem(READ, JSON.stringify(now));
    } catch {
      // a browser that keeps nothing shows them again at the next visit
    }
  };
  if (facts.length === 0 && !open) return null;
  return (
    <p className="arrivals" role={lost + unpromised > 0 ? "alert" : "status"}>
      <span className={lost + unpromised > 0 ? "red" : "soft"}>{facts.join(" · ")}</span>
      <button type="button" className="plain" onClick={() => setOpen(true)}>
        Show
      </button>
      <button type="button" className="plain" onClick={dismiss}>
        Dismiss
      </button>
      {open && (
        <ArrivalsDialog
          {...{ refused, again, failed, removed }}
          onRestore={onRestore}
          onDismiss={dismiss}
          onClose={() => setOpen(false)}
        />
      )}
    </p>
  );
}

function readBefore(): number[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(READ) ?? "[]");
    return Array.isArray(kept) ? kept.map(Number) : [];
  } catch {
    return [];
  }
}

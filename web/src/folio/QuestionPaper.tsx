import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { Trouble } from "../shared/ui/Trouble";
import "./QuestionPaper.css";
import { usePaperPages } from "./usePaperPages";

const [SMALLEST, LARGEST, STEP] = [50, 400, 25]; // percent of the width there is

interface QuestionPaperProps {
  assignmentId: number;
  onClose?: () => void;
}

/** The question paper, page under page: beside the work where there is room for both, else over it. */
export function QuestionPaper({ assignmentId, onClose }: QuestionPaperProps) {
  const [zoom, setZoom] = useState(100);
  const whole = useRef<HTMLElement>(null);
  const sheet = useRef<HTMLDivElement>(null);
  const paper = usePaperPages(assignmentId);
  const pages = paper.data?.pages ?? [];
  const larger = (by: number) => setZoom((now) => Math.min(LARGEST, Math.max(SMALLEST, now + by * STEP)));
  useLayoutEffect(() => {
    if (onClose && whole.current) Object.assign(whole.current.style, roomBesideTheWork());
  }, [onClose]);
  useEffect(() => {
    if (!onClose) return;
    const before = document.activeElement;
    sheet.current?.focus(); // arrow keys turn its pages at once
    return () => (before instanceof HTMLElement ? before.focus() : undefined);
  }, [onClose]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!whole.current?.contains(document.activeElement)) return;
      if (event.key === "+") larger(1);
      else if (event.key === "-") larger(-1);
      else if (event.key === "0") setZoom(100);
      else if (event.key === "Escape") onClose?.();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [onClose]);
  return (
    <section className={onClose ? "paper paper-beside" : "paper"} aria-label="Question paper" ref={whole}>
      <p className="paper-tools">
        <strong>Question paper</strong>
        <button type="button" className="plain" onClick={() => larger(-1)} disabled={zoom === SMALLEST} aria-label="Smaller">
          −
        </button>
        <button type="button" className="plain" onClick={() => setZoom(100)} aria-label={`${zoom} percent; fit to the width`}>
          {zoom} %
        </button>
        <button type="button" className="plain" onClick={() => larger(1)} disabled={zoom === LARGEST} aria-label="Larger">
          +
        </button>
        <a href={`/api/assignments/${assignmentId}/question-paper`} download>
          PDF
        </a>
        {onClose && (
          <button type="button" className="plain paper-close" onClick={onClose}>
            Close
          </button>
        )}
      </p>
      {paper.isError && <Trouble error={paper.error} onRetry={() => void paper.refetch()} />}
      {paper.data && paper.data.state !== "drawn" && (
        <p className="soft paper-state" role="status">
          {paper.data.state === "drawing" ? "Its pages are being drawn …" : "This paper cannot be shown here. Download it as PDF, above."}
        </p>
      )}
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- it scrolls, so it is reached by keyboard */}
      <div className="paper-pages" ref={sheet} tabIndex={0} role="group" aria-label="Pages of the question paper">
        {pages.map((page) => (
          <img
            key={page.number}
            src={page.address}
            alt={`Page ${page.number} of ${pages.length}`}
            width={page.width}
            height={page.height}
            style={{ width: `${zoom}%` }}
          />
        ))}
      </div>
    </section>
  );
}

/** Between the line that tells the time and the one that says what is saved: neither is ever covered. */
function roomBesideTheWork() {
  const [work, foot] = [document.querySelector("main"), document.querySelector("footer")].map((one) => one?.getBoundingClientRect());
  const top = Math.max(0, work?.top ?? 0);
  return { top: top < innerHeight / 2 ? `${top}px` : "0", bottom: foot ? `${Math.max(0, innerHeight - foot.top)}px` : "0" };
}

import { useEffect, useRef, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import type { Schemas } from "../shared/api/client";
import { lazily } from "../shared/ui/later";
import { count } from "../shared/words";
import "./Reader.css";
import { isOnPages } from "./answers/content";
import { labelIn } from "./labelIn";
import { ReaderAnswer } from "./answers/ReaderAnswer";
import { ReaderSheet } from "./ReaderSheet";

const ReaderKeys = lazily(async () => (await import("./ReaderKeys")).ReaderKeys);
type Folio = Schemas["ReadingOut"];
type Question = Schemas["ReadingQuestion"];
const ABOVE_PX = 48;
const WIDTHS = ["min(100%, 560px)", "min(100%, 860px)", "100%", "150%", "220%"] as const; // of the column

interface ReaderProps {
  folio: Folio;
  /** The student before and after, at the same question; with them Shift and an arrow go there. */
  onStudent?: (by: 1 | -1) => void;
  /** What can be done or said at a page, below its head. */
  atPage?: (page: Folio["pages"][number]) => React.ReactNode;
  /** What lies over the picture of a page. */
  overPage?: (page: Folio["pages"][number]) => React.ReactNode;
  /** By label, where points were given. */
  points?: ReadonlyMap<string, string>;
}

/**
 * A folio to leaf through by question: choosing one brings the page that answers it, at its spot. The address says which
 * question it is (`#2b`), so that it can be sent, and another folio opened at the same one.
 */
export function Reader({ folio, onStudent, atPage, overPage, points }: ReaderProps) {
  const at = questionAt(folio, labelIn(useLocation().hash));
  const navigate = useNavigate();
  const [place, setPlace] = useState(0);
  const [visit, setVisit] = useState(0);
  const [width, setWidth] = useState(1);
  const [asCame, setAsCame] = useState(false);
  const [helping, setHelping] = useState(false);
  const sheets = useRef(new Map<number, HTMLElement>());
  const scroller = useRef<HTMLDivElement>(null);
  const question = folio.questions[at];
  const spots = question?.spots ?? [];
  const typed = folio.on_screen.some((one) => one.label === question?.label);
  const places = spots.length + Number(typed);
  const answers = useRef(new Map<string, HTMLElement>());

  /** From where the address is now: keys come faster than frames. */
  const walk = (by: 1 | -1) => go(questionAt(folio, labelIn(window.location.hash)) + by);
  const go = (to: number) => {
    const label = folio.questions[to]?.label;
    if (label === undefined) return;
    setPlace(0);
    setVisit((times) => times + 1);
    void navigate({ hash: `#${encodeURIComponent(label)}` }, { replace: true });
  };
  const goToPlace = (to: number) => {
    setPlace(to);
    setVisit((times) => times + 1);
  };
  useEffect(() => {
    const spot = question?.spots[place] ?? question?.spots[0];
    const sheet = spot && sheets.current.get(spot.page);
    const picture = sheet?.querySelector("div");
    const answer = question && (place >= spots.length || !spot) ? answers.current.get(question.label) : undefined;
    if (answer) {
      scroller.current?.scrollTo({ top: answer.offsetTop - ABOVE_PX / 4 }); // may give a promise, which no effect returns
      return;
    }
    if (!spot || !sheet || !picture || !scroller.current) return;
    // From the pages' own top: with a little of what stands above, and never below the page's head.
    scroller.current.scrollTo({ top: Math.max(sheet.offsetTop, picture.offsetTop + (spot.top ?? 0) * picture.offsetHeight - ABOVE_PX) });
  }, [question, spots.length, place, visit, width]);

  const scrollBy = (screens: number) => scroller.current?.scrollBy({ top: screens * scroller.current.clientHeight * 0.85 });
  const larger = (by: 1 | -1) => setWidth((now) => Math.min(WIDTHS.length - 1, Math.max(0, now + by)));
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target instanceof HTMLElement ? event.target : null;
      if (target?.matches("input, textarea, [role=dialog] *, [role=radio]") || event.altKey || event.ctrlKey || event.metaKey) return;
      if (event.key === " " && target?.matches("button, a, summary")) return;
      const student = event.shiftKey && onStudent;
      const keys: Record<string, () => void> = {
        ArrowLeft: () => (student ? student(-1) : walk(-1)),
        ArrowRight: () => (student ? student(1) : walk(1)),
        ".": () => places > 1 && goToPlace((place + 1) % places),
        PageDown: () => scrollBy(1),
        PageUp: () => scrollBy(-1),
        " ": () => scrollBy(event.shiftKey ? -1 : 1),
        "+": () => larger(1),
        "-": () => larger(-1),
        "=": () => setAsCame(true),
        "?": () => setHelping(true),
      };
      const act = keys[event.key];
      if (!act) return;
      event.preventDefault();
      act();
    };
    const onKeyUp = (event: KeyboardEvent) => event.key === "=" && setAsCame(false);
    window.addEventListener("keydown", onKey);
    window.addEventListener("keyup", onKeyUp);
    return () => {
      window.removeEventListener("keydown", onKey);
      window.removeEventListener("keyup", onKeyUp);
    };
  });
  const typedSheets = (before: boolean) =>
    folio.on_screen
      .filter((one) => one.before_pages === before)
      .map((one) => (
        <ReaderAnswer
          key={one.label}
          answer={one}
          isAt={one.label === question?.label}
          keep={(element) => {
            if (element) answers.current.set(one.label, element);
            else answers.current.delete(one.label);
          }}
        />
      ));
  return (
    <div className="reader">
      <nav aria-label="Questions">
        <ol>
          {folio.questions.map((one, number) => (
            <li key={one.label}>
              <button type="button" aria-current={number === at} className="reader-question" onClick={() => go(number)}>
                <strong>{one.label}</strong>
                <span className={one.state === "open" ? "red" : "soft"}>{where(one)}</span>
                {points?.has(one.label) && <span className="reader-points">{points.get(one.label)}<span className="unseen"> points</span></span>}
              </button>
            </li>
          ))}
        </ol>
      </nav>
      <div className="reader-view">
        <div className="reader-bar">
          <button type="button" className="plain" disabled={at === 0} onClick={() => walk(-1)} title="←">
            Question before
          </button>
          <div className="reader-at">
            <p aria-live="polite">
              {question && (
                <>
                  <strong>{question.label}</strong> {question.title} · {where(question)}
                </>
              )}
            </p>
            {places > 1 && <Places spots={spots} typed={typed} place={place} onPlace={goToPlace} />}
          </div>
          <button type="button" className="plain" disabled={at === folio.questions.length - 1} onClick={() => walk(1)} title="→">
            Question after
          </button>
          <span className="reader-tools">
            <button type="button" className="plain" disabled={width === 0} onClick={() => larger(-1)} title="-">
              Smaller
            </button>
            <button type="button" className="plain" disabled={width === WIDTHS.length - 1} onClick={() => larger(1)} title="+">
              Larger
            </button>
            <button type="button" className="plain" onClick={() => setHelping(true)} title="?">
              Keys
            </button>
          </span>
        </div>
        {/* eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- a scrolling region must be reachable by key */}
        <div className="reader-pages" ref={scroller} tabIndex={0} role="region" aria-label="Pages">
          <div className="reader-column" style={{ width: WIDTHS[width] }}>
            {typedSheets(true)}
            {folio.pages.map((page) => (
              <ReaderSheet
                key={page.number}
                page={page}
                question={question}
                asCame={asCame}
                deeds={atPage?.(page)}
                over={overPage?.(page)}
                keep={(element) => {
                  if (element) sheets.current.set(page.number, element);
                  else sheets.current.delete(page.number);
                }}
              />
            ))}
            {typedSheets(false)}
          </div>
        </div>
      </div>
      {helping && <ReaderKeys students={Boolean(onStudent)} onClose={() => setHelping(false)} />}
    </div>
  );
}

/** Where in the map the label is; for none, or one this folio does not have, the first question with a page. */
function questionAt(folio: Folio, label: string): number {
  const named = folio.questions.findIndex((one) => one.label === label);
  const answered = (one: Question) => one.spots.length > 0 || folio.on_screen.some(({ label: typed }) => typed === one.label);
  return named >= 0 ? named : Math.max(0, folio.questions.findIndex(answered));
}

interface PlacesProps {
  spots: Question["spots"];
  /** Whether it is answered on the screen too. */
  typed: boolean;
  place: number;
  onPlace: (to: number) => void;
}

/** An answer in several places: the way to each of them. */
function Places({ spots, typed, place, onPlace }: PlacesProps) {
  return (
    <span className="reader-places">
      {spots.map((spot, number) => (
        <button key={spot.page} type="button" className="plain" aria-current={number === place} onClick={() => onPlace(number)}>
          page {spot.page}
        </button>
      ))}
      {typed && (
        <button type="button" className="plain" aria-current={place >= spots.length} onClick={() => onPlace(spots.length)}>
          on the screen
        </button>
      )}
    </span>
  );
}

/** What is missing of an open question. */
function lacks({ missing }: Question): string {
  return [missing.some(isOnPages) && "no page", missing.some((kind) => !isOnPages(kind)) && "not answered"].filter(Boolean).join(", ");
}

function where(question: Question): string {
  if (question.state === "left_blank") return "left blank";
  if (question.state === "open") return lacks(question);
  if (question.state === "not_needed") return "not needed";
  const pages = question.spots.map((spot) => String(spot.page));
  if (pages.length === 0) return "on the screen";
  return pages.length === 1 ? `page ${pages[0]}` : `${count(pages.length, "page")}: ${pages.join(", ")}`;
}

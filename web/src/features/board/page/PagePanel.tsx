import { type ComponentProps, memo, useMemo } from "react";
import type { Schemas } from "../../../shared/api/client";
import { clockTime } from "../../../shared/time";
import { useLatest } from "../../../shared/useLatest";
import { adviceOf } from "../../../folio/advice";
import { setLoose, takeOff } from "../../../folio/arrangement";
import { inReadingOrder } from "../../../folio/ordering";
import { labelOf } from "../../../folio/labelWords";
import { pageName } from "../../../folio/pageName";
import { PageProposals } from "../proposals/PageProposals";
import type { Place } from "../../../folio/useSuggestion";
import { PageAdvice } from "./PageAdvice";
import { PagePicture } from "./PagePicture";
import "./PagePanel.css";
import { PageTools } from "./PageTools";
import { useSettled } from "./useSettled";
import { Talk, type Word } from "../../../folio/Talk";
import { PageWord } from "../../../folio/WordField";

interface Props extends ComponentProps<typeof PageTools> {
  questions: Schemas["QuestionOut"][];
  timeZone: string;
  folioId: number;
  /** Said by student and readers, at any page. */
  words: readonly Word[];
  larger: boolean;
  onLarger: (larger: boolean) => void;
  onBegin: (question: string, page: number, top: number | null) => void;
  onKey: (event: React.KeyboardEvent) => boolean;
  /** What the reading proposes, for any page. */
  proposed: readonly Place[];
  onConfirm: () => void;
}

/** What is done to the page: always what the board does now, however late the page was drawn. */
export type PageActions = Pick<Props, "onBegin" | "onKey" | "onConfirm" | "onChange" | "onShift" | "onRemove" | "onTakeAgain">;
type Shown = Omit<Props, keyof PageActions | "page" | "isFirst" | "isLast"> & {
  page: Props["page"] | undefined;
  /** How many there are. */
  pages: number;
  now: PageActions;
};

/**
 * The chosen page, after the strip has answered, which must not wait for it. What is done to "this page" is done
 * to the one that is shown; while the next is about to come, to none.
 */
export function ShownPage({ now, page, number, pages, arrangement, ...rest }: Shown) {
  const [seen, seenNumber, seenArrangement] = useSettled(page, number, arrangement);
  const latest = useLatest({ now, page });
  const pageActions = useMemo((): PageActions => {
    const toShown = (act: () => void) => {
      if (latest.current.page === seen) act();
    };
    return {
      onBegin: (question, on, top) => latest.current.now.onBegin(question, on, top),
      onKey: (event) => latest.current.now.onKey(event),
      onConfirm: () => toShown(() => latest.current.now.onConfirm()),
      onChange: (wanted, words) => latest.current.now.onChange(wanted, words),
      onShift: (by) => toShown(() => latest.current.now.onShift(by)),
      onRemove: () => toShown(() => latest.current.now.onRemove()),
      onTakeAgain: (picture) => toShown(() => latest.current.now.onTakeAgain(picture)),
    };
  }, [latest, seen]);
  if (!seen) return null;
  const [isFirst, isLast] = [seenNumber === 1, seenNumber === pages];
  return <PagePanel page={seen} number={seenNumber} arrangement={seenArrangement} {...{ isFirst, isLast }} {...rest} {...pageActions} />;
}

/** The chosen page, large, with its advice and what can be done to it. */
const PagePanel = memo(function PagePanel(props: Props) {
  const { page, number, arrangement, questions, onChange, timeZone, larger, mayPlace } = props;
  const placed = inReadingOrder(arrangement, page.id, questions);
  const facts = [
    pageName(page),
    `safe since ${clockTime(page.arrived, timeZone, true)}`,
    page.dpi ? `${Math.round(page.dpi)} dpi` : "",
  ];
  return (
    <aside className={larger ? "panel panel-larger" : "panel"} aria-label={`Page ${number}`}>
      <h2>Page {number}</h2>
      <p className="soft panel-facts">{facts.filter(Boolean).join(" · ")}</p>
      <PagePicture
        {...{ page, number, arrangement, mayPlace, larger }}
        questions={placed}
        map={questions}
        advice={adviceOf(page, arrangement)}
        onLarger={props.onLarger}
        onBegin={(question, top) => props.onBegin(question, page.id, top)}
        onKey={props.onKey}
      />
      <ul className="panel-labels" aria-label={`Placed on page ${number}`}>
        {placed.map((id) => {
          const label = labelOf(id, questions);
          return (
            <li key={id}>
              {label}
              <button
                type="button"
                aria-label={`Take ${label} off page ${number}`}
                disabled={!mayPlace}
                onClick={() => onChange(takeOff(id, [page.id]), `${label} taken off page ${number}`)}
              >
                ×
              </button>
            </li>
          );
        })}
        {placed.length === 0 && (
          <li className="panel-none">
            <LooseSwitch page={page.id} number={number} arrangement={arrangement} onChange={onChange} />
          </li>
        )}
      </ul>
      {mayPlace && (
        <PageProposals
          {...{ page, questions }}
          places={props.proposed.filter((one) => one.page === page.id && !placed.includes(one.question))}
          onConfirm={props.onConfirm}
        />
      )}
      <PageAdvice {...{ page, number, arrangement, onChange }} />
      <Talk folioId={props.folioId} page={page.id} words={props.words} zone={timeZone} />
      <PageWord page={page.id} {...{ number, arrangement, onChange }} disabled={!mayPlace} />
      <PageTools {...props} />
    </aside>
  );
});

type LooseProps = Pick<Props, "number" | "arrangement" | "onChange"> & { page: number };

function LooseSwitch({ page, number, arrangement, onChange }: LooseProps) {
  const loose = arrangement.loose.includes(page);
  return (
    <>
      <span className={loose ? "soft" : "red"}>{loose ? "Loose page: answers no question" : "Nothing placed yet"}</span>
      <button
        type="button"
        className="plain"
        onClick={() => onChange(setLoose(page, !loose), `Page ${number} is ${loose ? "no loose page any more" : "a loose page"}`)}
      >
        {loose ? "not loose" : "loose page"}
      </button>
    </>
  );
}

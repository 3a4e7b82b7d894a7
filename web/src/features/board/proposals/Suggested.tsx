import { useEffect, useRef } from "react";
import type { KeyboardEvent, MouseEvent } from "react";
import type { Schemas } from "../../../shared/api/client";
import { labelWords } from "../../../folio/labelWords";
import { count, list } from "../../../shared/words";
import "./Suggested.css";
import type { Suggestion } from "../../../folio/useSuggestion";

interface Props {
  suggestion: Suggestion;
  pages: readonly Schemas["PageOut"][];
  questions: Schemas["QuestionOut"][];
  mayPlace: boolean;
  onOrder: (order: readonly number[]) => void;
  onConfirmAll: () => void;
  /** Keys of the board. */
  onKey: (event: KeyboardEvent) => boolean;
}

const MOST_DOUBLED = 2;
/** So soon after the order was taken a tap is the second of two, which was not meant for what came in its place. */
const SECOND_TAP_MS = 700;

function twice(label: string, pages: readonly number[]): string {
  return `${label} begins on pages ${list(pages.map(String))}`;
}

/** What was read from the pages, and what it suggests for all of them; nothing of it holds before it is confirmed. */
export function Suggested({ suggestion, pages, questions, mayPlace, onOrder, onConfirmAll, onKey }: Props) {
  const { places, sure, loose, order, missing, outside, doubts, doubled, others, elsewhere } = suggestion;
  const sureAll = sure.length === places.length;
  const number = (page: number) => pages.findIndex((one) => one.id === page) + 1;
  const besides = doubts.length + doubled.length + outside.length;
  const asksOrder = order.length > 0;
  const orderTaken = useRef(-Infinity);
  useEffect(() => {
    if (!asksOrder) return undefined;
    return () => {
      orderTaken.current = Date.now();
    };
  }, [asksOrder]);
  const confirmAll = (event: MouseEvent) => {
    const byPointer = event.detail > 0;
    const second = event.detail > 1 || (byPointer && Date.now() - orderTaken.current < SECOND_TAP_MS);
    if (!second) onConfirmAll();
  };
  const keys = (event: KeyboardEvent) => void onKey(event); // also where a press on the order left the keyboard
  const told = [places, loose, order, missing, outside, doubts, doubled, others, elsewhere];
  if (!mayPlace || told.every((one) => one.length === 0)) return null;
  return (
    <section className="suggested" aria-label="Read from the pages">
      {asksOrder && (
        <p>
          <span>
            <strong>Another order seems likelier:</strong> these look like pages {order.map(number).join(", ")}.
          </span>
          <button type="button" className="button button-small" onClick={() => onOrder(order)} onKeyDown={keys}>
            Put them so
          </button>
          <button type="button" className="plain" onClick={suggestion.keepOrder}>
            They are in order
          </button>
        </p>
      )}
      {places.length > 0 && !asksOrder && (
        <p className="suggested-places">
          <span>
            <i className="suggested-sign" aria-hidden="true" /> {count(places.length, "place")} read from your labels
            <span className="suggested-how">, hatched until you confirm</span>.
          </span>
          {sure.length > 0 && (
            <button type="button" className="button button-small" onClick={confirmAll} onKeyDown={keys}>
              {sureAll ? "Confirm all" : sure.length === 1 ? "Confirm the sure one" : `Confirm the ${sure.length} sure ones`} <kbd className="key">Shift Y</kbd>
            </button>
          )}
        </p>
      )}
      {loose.length > 0 && (
        <p className="suggested-words">
          {loose.length === 1 ? "Page" : "Pages"} {loose.map(number).join(", ")}: no work on {loose.length === 1 ? "it" : "them"}, it
          seems
          <span className="suggested-key">
            ; <kbd className="key">.</kbd> makes a loose page
          </span>
          .
        </p>
      )}
      {missing.length > 0 && (
        <p className="suggested-words">
          <strong>{labelWords([...missing], questions)} not found.</strong> Photograph its page, place it where it stands, or leave it blank.
        </p>
      )}
      {others.length > 0 && (
        <p className="suggested-words">
          <strong>{list(others.map((one) => `Page ${number(one.page)} carries number ${one.says}`))}</strong>, which is another student’s.
          Is it yours?
        </p>
      )}
      {elsewhere.length > 0 && (
        <p className="suggested-words">
          <strong>{list(elsewhere.map((one) => `Page ${number(one.page)} seems to belong to ${one.says}`))}</strong>, as its head says.
        </p>
      )}
      {besides > 0 && (
        <details className="suggested-words">
          <summary>{count(besides, "more thing")} seen on the pages</summary>
          {doubts.length > 0 && (
            <p className="suggested-words">
              {list(doubts.map((one) => `Page ${number(one.page)} seems to hold ${labelWords([one.question], questions)}`))} too, which{" "}
              {doubts.length === 1 ? "is" : "are"} not placed there.
            </p>
          )}
          {doubled.length > 0 && (
            <p className="suggested-words">
              {list(doubled.slice(0, MOST_DOUBLED).map((one) => twice(labelWords([one.question], questions), one.pages.map(number))))}
              {doubled.length > MOST_DOUBLED && `; so do ${doubled.length - MOST_DOUBLED} more`}. Is one of them another try?
            </p>
          )}
          {outside.length > 0 && (
            <p className="suggested-words">
              {list(outside.map((one) => `Page ${number(one.page)} reads ${one.says}`))}: not on the question map.
            </p>
          )}
        </details>
      )}
    </section>
  );
}

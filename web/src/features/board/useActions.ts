import { useState } from "react";
import type { Schemas } from "../../shared/api/client";
import { count } from "../../shared/words";
import {
  type Arrangement, type Change, isOpenPage, isPlaced, move, openQuestions, place, questionsOn, setLeftBlank, setLoose,
  setRemoved, setTop, takeOff, together,
} from "../../folio/arrangement";
import type { ArrangementStore } from "../../folio/ArrangementStore";
import { labelWords } from "../../folio/labelWords";
import { lastOnPageBefore, layInOrder } from "../../folio/ordering";
import { keepAll, keepOnly } from "../../folio/sheetTwice";

type Page = Schemas["PageOut"];
type Proposed = Pick<Schemas["ProposedPlaceOut"], "question" | "page" | "top">;

interface Board {
  questions: Schemas["QuestionOut"][];
  pages: Page[];
  arrangement: Arrangement;
  store: ArrangementStore;
  /** The index of the chosen page. */
  at: number;
  choose: (id: number) => void;
}
export type Actions = ReturnType<typeof useActions>;

/** All that can be done on the board, in one place: each is one step with its words, for the history and for the ear. */
export function useActions({ questions, pages, arrangement, store, at, choose }: Board) {
  const [announcement, setAnnouncement] = useState("");
  /** Pages chosen together with the one that is looked at. */
  const [marked, setMarked] = useState<readonly number[]>([]);
  const page = pages[at];
  const ids = pages.map((one) => one.id);
  const group = page ? (marked.includes(page.id) ? ids.filter((id) => marked.includes(id)) : [page.id]) : [];
  const numbers = (some: readonly number[]) => pagesInWords(some.map((id) => ids.indexOf(id) + 1));
  const named = (some: readonly string[]) => labelWords(some, questions);

  /** Whether what was announced last can be undone, as far as it was something done. */
  const [undoable, setUndoable] = useState(false);
  const announce = (words: string, done = false) => {
    setAnnouncement(words);
    setUndoable(done);
  };

  const change = (wanted: Change, words: string, joins?: string) => {
    store.change(wanted, words, joins);
    announce(words, true);
  };
  /** Goes to a page; `after`: what was done just before, in words. */
  const look = (id: number, after = "", number = ids.indexOf(id) + 1) => {
    setMarked([]);
    choose(id);
    const told = document.activeElement?.closest(".strip"); // the focus goes along, and so a screen reader says it
    const stands = named(questionsOn(arrangement, id)) || (arrangement.loose.includes(id) ? "loose page" : "not placed");
    announce([after, !told && `Page ${number}, ${stands}`].filter(Boolean).join(". "), after !== "");
  };
  const walk = (to: number, after = "") => {
    const target = pages[Math.min(Math.max(to, 0), pages.length - 1)];
    if (target && target.id !== page?.id) look(target.id, after);
    else setMarked([]);
  };
  /** To where the chosen pages together begin; counted from 1. */
  const moveTo = (number: number) => {
    const rest = ids.filter((id) => !group.includes(id));
    const index = Math.min(Math.max(number - 1, 0), rest.length);
    const order = [...rest.slice(0, index), ...group, ...rest.slice(index)];
    if (order.join() === ids.join()) return;
    change(layInOrder(order), `${numbers(group)} moved to ${index + 1}`);
  };
  const confirmed = (proposed: readonly Proposed[]) =>
    `${named([...new Set(proposed.map((one) => one.question))])} confirmed on ${numbers([...new Set(proposed.map((one) => one.page))])}`;
  return {
    announcement,
    undoable,
    announce,
    marked,
    group,
    change,
    look,
    walk,
    moveTo,
    undo: () => {
      announce(store.shown().past.at(-1) ? `Undone: ${store.shown().past.at(-1)}` : "Nothing to undo");
      store.undo();
    },
    redo: () => {
      announce(store.shown().future.at(-1) ? `Done again: ${store.shown().future.at(-1)}` : "Nothing to do again");
      store.redo();
    },
    /** Choose more pages: from the one looked at to this one, or this one alone. */
    mark: (id: number, from: boolean) => {
      if (!page) return;
      const [low, high] = [at, ids.indexOf(id)].sort((x, y) => x - y) as [number, number];
      const more = from ? ids.slice(low, high + 1) : [...marked, page.id, id];
      const fewer = !from && marked.includes(id) ? marked.filter((one) => one !== id) : more;
      setMarked([...new Set(fewer)]);
      announce(`${count(new Set(fewer).size, "page")} chosen together`);
    },
    shift: (by: 1 | -1) => moveTo(ids.indexOf(group[0] ?? NaN) + 1 + by),
    drop: (id: number, to: number) => {
      const moved = marked.includes(id) ? ids.filter((one) => marked.includes(one)) : [id];
      change(move(moved, to), `${numbers(moved)} moved to ${ids.indexOf(to) + 1}`);
      choose(id);
    },
    order: (wanted: readonly number[], how: string) => change(layInOrder(wanted), `Pages put in order ${how}`),
    /** Of several pictures of one sheet. */
    keepOnly: (better: number, worse: readonly number[]) => {
      const words = `${numbers(worse)} removed, ${numbers([better])} kept`;
      change(keepOnly(better, worse), words);
      look(better, words, ids.filter((id) => !worse.includes(id)).indexOf(better) + 1);
    },
    keepAll: (same: readonly number[]) => change(keepAll(same), `${numbers(same)} kept, though they are the same sheet`),
    /** On the pages chosen, and on to the next. */
    placeHere: (asked: string[]) => {
      const words = `${named(asked)} placed on ${numbers(group)}`;
      change(place(asked, group), words);
      walk(ids.indexOf(group.at(-1) ?? NaN) + 1, words);
    },
    place: (asked: string[], on: number[], placed: boolean) => {
      if (asked.length === 0 || on.length === 0) return;
      const off = asked.map((question) => takeOff(question, on));
      if (placed) change(place(asked, on), `${named(asked)} placed on ${numbers(on)}`);
      else change(together(...off), `${named(asked)} taken off ${numbers(on)}`);
    },
    /** What the reading proposed, as it proposed it. */
    confirm: (proposed: readonly Proposed[]) => {
      const placing = proposed.flatMap((one) => [place([one.question], [one.page]), ...(one.top === null ? [] : [setTop(one.question, one.page, one.top)])]);
      change(together(...placing), confirmed(proposed));
    },
    confirmed,
    placeAt: (asked: string[], on: number, top: number) => {
      const tops = asked.map((question) => setTop(question, on, top));
      change(together(place(asked, [on]), ...tops), `${named(asked)} placed on ${numbers([on])}`);
    },
    beginAt: (question: string, on: number, top: number | null) => {
      if (!isPlaced(arrangement, question, on)) return;
      change(setTop(question, on, top), `Where ${named([question])} begins on ${numbers([on])}`);
    },
    leaveBlank: (asked: string[], blank: boolean) => {
      const changes = asked.map((question) => setLeftBlank(question, blank));
      change(together(...changes), `${named(asked)} ${blank ? "left blank" : "not left blank"}`);
    },
    loosen: () => {
      if (!page) return;
      const loose = !arrangement.loose.includes(page.id);
      change(setLoose(page.id, loose), `Page ${at + 1} is ${loose ? "a loose page" : "no loose page any more"}`);
    },
    /** The answer the page before ends with runs on to this one. */
    runOn: () => {
      const question = page && lastOnPageBefore(arrangement, page.id, questions);
      if (!question) return announce("There is no question on the page before");
      change(place([question], [page.id]), `${named([question])} runs on to page ${at + 1}`);
    },
    remove: () => {
      if (!page) return;
      const next = pages.find((one, index) => index > at && !group.includes(one.id)) ?? pages[ids.indexOf(group[0] ?? NaN) - 1];
      const words = `${numbers(group)} removed`;
      change(together(...group.map((id) => setRemoved(id, true))), words);
      if (next) look(next.id, words, ids.filter((id) => !group.includes(id)).indexOf(next.id) + 1);
    },
    /** The next page nothing is placed on; where there is none, the question that is open is told. */
    nextOpen: () => {
      const next = [...pages.slice(at + 1), ...pages.slice(0, at + 1)].find(({ id }) => isOpenPage(arrangement, id));
      if (next) return look(next.id);
      const open = openQuestions(arrangement, questions).map((one) => one.id);
      announce(open.length > 0 ? `Every page is placed. Still open: ${named(open)}` : "Every page is placed, every question settled");
    },
  };
}

/** "page 2", "pages 2 to 4", "pages 1, 3" */
function pagesInWords(numbers: readonly number[]): string {
  const sorted = numbers.toSorted((a, b) => a - b);
  const [first = 0, last = 0] = [sorted[0], sorted.at(-1)];
  if (sorted.length < 2) return `page ${first}`;
  return sorted.length > 2 && last - first === sorted.length - 1 ? `pages ${first} to ${last}` : `pages ${sorted.join(", ")}`;
}

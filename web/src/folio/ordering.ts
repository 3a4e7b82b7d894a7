import type { Schemas } from "../shared/api/client";
import { type Arrangement, type Change, pagesOf, pagesWith, questionsOn } from "./arrangement";

type Page = Pick<Schemas["PageOut"], "id" | "file_name" | "index" | "half" | "taken">;
type Question = Pick<Schemas["QuestionOut"], "id" | "label">;

export type OrderKind = "reversed" | "taken" | "name" | "questions";

const byNumbersInNames = new Intl.Collator("en", { numeric: true, sensitivity: "base" });

/** The pages that are there, in another order. What an order says nothing of stays behind the page it was behind. */
export function ordered(kind: OrderKind, a: Arrangement, pages: readonly Page[], map: readonly Question[]): number[] {
  const byId = new Map(pages.map((page) => [page.id, page]));
  const now = pagesOf(a);
  switch (kind) {
    case "reversed":
      return now.toReversed();
    case "taken":
      return sortedBy(now, (id) => byId.get(id)?.taken || null, (x, y) => (x < y ? -1 : x > y ? 1 : 0));
    case "name":
      return sortedBy(
        now,
        (id) => byId.get(id) ?? null,
        (x, y) => byNumbersInNames.compare(x.file_name, y.file_name) || x.index - y.index || x.half.localeCompare(y.half),
      );
    case "questions":
      return sortedBy(now, (id) => firstOf(a, id, map), (x, y) => x[0] - y[0] || x[1] - y[1]);
  }
}

/** Sorts what has a key; what has none goes along with what it follows. */
function sortedBy<Key>(ids: readonly number[], keyOf: (id: number) => Key | null, compare: (a: Key, b: Key) => number): number[] {
  const groups: { key: Key | null; ids: number[] }[] = [];
  for (const id of ids) {
    const key = keyOf(id);
    if (key === null && groups.length > 0) groups.at(-1)?.ids.push(id);
    else groups.push({ key, ids: [id] });
  }
  const first = groups[0]?.key === null ? groups.splice(0, 1) : [];
  const sorted = groups.toSorted((x, y) => (x.key === null || y.key === null ? 0 : compare(x.key, y.key)));
  return [...first, ...sorted].flatMap((group) => group.ids);
}

/** The place on the map of the first question on a page; of pages with the same first question, the fewer of it first. */
function firstOf(a: Arrangement, page: number, map: readonly Question[]): [number, number] | null {
  const places = questionsOn(a, page).map((id) => map.findIndex((one) => one.id === id));
  if (places.length === 0) return null;
  const first = Math.min(...places);
  // An answer that runs on comes after the page where it begins.
  const runsOn = pagesWith(a, map[first]?.id ?? "").indexOf(page);
  return [first, runsOn];
}

/** Lay the pages that are there in this order; removed ones stay behind the page they were behind. */
export const layInOrder =
  (wanted: readonly number[]): Change =>
  (a) => {
    const here = pagesOf(a);
    const order = [...wanted.filter((page) => here.includes(page)), ...here.filter((page) => !wanted.includes(page))];
    const behind = new Map<number | null, number[]>();
    let last: number | null = null;
    for (const page of a.order) {
      if (here.includes(page)) last = page;
      else behind.set(last, [...(behind.get(last) ?? []), page]);
    }
    return { ...a, order: [...(behind.get(null) ?? []), ...order.flatMap((page) => [page, ...(behind.get(page) ?? [])])] };
  };

export interface Contradiction {
  /** Labels. */
  before: string;
  after: string;
  /** Of the question that comes too early, and of the one it should follow; counted from 1. */
  pages: [number, number];
}

/** Where order and questions do not go together: a question that begins on a page before that of an earlier question. */
export function contradictions(a: Arrangement, map: readonly Question[]): Contradiction[] {
  const at = new Map(pagesOf(a).map((page, index) => [page, index]));
  const begins = map.flatMap(({ id, label }) => {
    const places = (a.placements[id] ?? []).flatMap((spot) => at.get(spot.page) ?? []);
    return places.length > 0 ? [{ label, index: Math.min(...places) }] : [];
  });
  return begins.flatMap((one, number) => {
    const before = begins[number - 1];
    if (!before || one.index >= before.index) return [];
    return [{ before: before.label, after: one.label, pages: [one.index + 1, before.index + 1] as [number, number] }];
  });
}

/** The question (its id) the page before ends with: the lowest on it, else the last of the map. */
export function lastOnPageBefore(a: Arrangement, page: number, map: readonly Question[]): string | null {
  const pages = pagesOf(a);
  const before = pages[pages.indexOf(page) - 1];
  if (before === undefined) return null;
  const topOf = (id: string) => a.placements[id]?.find((spot) => spot.page === before)?.top ?? -1;
  return inReadingOrder(a, before, map).toSorted((x, y) => topOf(x) - topOf(y)).at(-1) ?? null;
}

/** The questions on a page, by id, in the order of the map. */
export function inReadingOrder(a: Arrangement, page: number, map: readonly Question[]): string[] {
  const on = new Set(questionsOn(a, page));
  return map.map((one) => one.id).filter((id) => on.has(id));
}

import type { Schemas } from "../../shared/api/client";

export type Arrangement = Schemas["ArrangementDoc"];
export type Recipe = Schemas["RecipeDoc"];
type Code = Schemas["AdviceOut"]["code"];
export type Change = (from: Arrangement) => Arrangement;

/** The pages that will be handed in, in order. */
export function pagesOf(a: Arrangement): readonly number[] {
  return a.removed.length === 0 ? a.order : a.order.filter((page) => !a.removed.includes(page));
}

export function labelsOn(a: Arrangement, page: number): string[] {
  return Object.keys(a.placements).filter((label) => isPlaced(a, label, page));
}

/** The same of every page that has any, in one go. */
export function labelsByPage(a: Arrangement): ReadonlyMap<number, string[]> {
  const found = new Map<number, string[]>();
  for (const [label, spots] of Object.entries(a.placements))
    for (const page of new Set(spots.map((spot) => spot.page))) found.set(page, [...(found.get(page) ?? []), label]);
  return found;
}

export function isPlaced(a: Arrangement, label: string, page: number): boolean {
  return (a.placements[label] ?? []).some((spot) => spot.page === page);
}

/** The pages a label is on, of those that are there. */
export function pagesWith(a: Arrangement, label: string): number[] {
  return pagesOf(a).filter((page) => isPlaced(a, label, page));
}

export function isSettled(a: Arrangement, label: string): boolean {
  return a.left_blank.includes(label) || pagesWith(a, label).length > 0;
}

export const place =
  (labels: readonly string[], pages: readonly number[]): Change =>
  (a) => {
    if (pages.length === 0) return a;
    const placements = { ...a.placements };
    for (const label of labels) {
      const missing = pages.filter((page) => !isPlaced(a, label, page));
      placements[label] = [...(a.placements[label] ?? []), ...missing.map((page) => ({ page, top: null }))];
    }
    return {
      ...a,
      placements,
      left_blank: a.left_blank.filter((label) => !labels.includes(label)),
      loose: a.loose.filter((page) => !pages.includes(page)),
    };
  };

export const takeOff =
  (label: string, pages: readonly number[]): Change =>
  (a) => {
    const rest = (a.placements[label] ?? []).filter((spot) => !pages.includes(spot.page));
    const others = Object.entries(a.placements).filter(([other]) => other !== label);
    const all = rest.length > 0 ? [...others, [label, rest] as const] : others;
    return { ...a, placements: Object.fromEntries(all) };
  };

/** A question left blank stands on no page. */
export const setLeftBlank =
  (label: string, blank: boolean): Change =>
  (a) => {
    const left_blank = a.left_blank.filter((other) => other !== label);
    if (!blank) return { ...a, left_blank };
    return { ...takeOff(label, a.order)(a), left_blank: [...left_blank, label] };
  };

/** A loose page answers no question. */
export const setLoose =
  (page: number, loose: boolean): Change =>
  (a) => {
    const others = a.loose.filter((other) => other !== page);
    if (!loose) return { ...a, loose: others };
    const cleared = Object.keys(a.placements).reduce((so_far, label) => takeOff(label, [page])(so_far), a);
    return { ...cleared, loose: [...others, page] };
  };

/** A page that is removed keeps its place and its questions, so that restoring it brings all back. */
export const setRemoved =
  (page: number, removed: boolean): Change =>
  (a) => {
    const others = a.removed.filter((other) => other !== page);
    if (removed) return { ...a, removed: [...others, page] };
    const labels = labelsOn(a, page);
    return {
      ...a,
      removed: others,
      left_blank: a.left_blank.filter((label) => !labels.includes(label)),
      loose: labels.length > 0 ? a.loose.filter((other) => other !== page) : a.loose,
    };
  };

/** Put pages, together and in their order, where another one is; that one and those between move over. */
export const move =
  (pages: readonly number[], to: number): Change =>
  (a) => {
    const moved = a.order.filter((page) => pages.includes(page));
    const target = a.order.indexOf(to);
    if (moved.length === 0 || target < 0 || moved.includes(to)) return a;
    const behind = a.order.indexOf(moved[0] as number) < target;
    const order = a.order.filter((page) => !pages.includes(page));
    order.splice(order.indexOf(to) + (behind ? 1 : 0), 0, ...moved);
    return { ...a, order };
  };

/** Where on a page the answer to a label begins: 0 at its top edge, 1 at its bottom; null: unsaid. */
export const setTop =
  (label: string, page: number, top: number | null): Change =>
  (a) => {
    if (!isPlaced(a, label, page)) return a;
    const spots = a.placements[label]?.map((spot) => (spot.page === page ? { ...spot, top } : spot)) ?? [];
    return { ...a, placements: { ...a.placements, [label]: spots } };
  };

export const setComment =
  (comment: string): Change =>
  (a) => ({ ...a, comment });

export const setSides =
  (sides: number | null): Change =>
  (a) => ({ ...a, sides });

/** A word to the reader on one page; none where it is empty. */
export const setNote =
  (page: number, note: string): Change =>
  (a) => {
    const rest = Object.entries(a.notes).filter(([other]) => Number(other) !== page);
    return { ...a, notes: Object.fromEntries(note ? [...rest, [page, note] as const] : rest) };
  };

/** Several changes as one. */
export const together =
  (...changes: readonly Change[]): Change =>
  (a) =>
    changes.reduce((so_far, change) => change(so_far), a);

const AS_FOUND: Recipe = { corners: null, turn: null, tone: "clean" };

/** What was set right about a page by hand. */
export function recipeOf(a: Arrangement, page: number): Recipe {
  return a.recipes[page] ?? AS_FOUND;
}

export const correct =
  (pages: readonly number[], wanted: Partial<Recipe>): Change =>
  (a) => {
    const recipes = { ...a.recipes };
    for (const page of pages) recipes[page] = { ...recipeOf(a, page), ...wanted };
    const touched = Object.entries(recipes).filter(([, recipe]) => spelled(recipe) !== spelled(AS_FOUND));
    return { ...a, recipes: Object.fromEntries(touched) };
  };

/** Advice that was waved away is not shown again for that page. */
export const setDismissed =
  (page: number, code: Code, dismissed: boolean): Change =>
  (a) => {
    const others = (a.dismissed[page] ?? []).filter((other) => other !== code);
    const codes = dismissed ? [...others, code].sort() : others;
    const rest = Object.entries(a.dismissed).filter(([other]) => Number(other) !== page);
    return { ...a, dismissed: Object.fromEntries(codes.length > 0 ? [...rest, [page, codes] as const] : rest) };
  };

function spelled({ corners, turn, tone }: Recipe): string {
  return JSON.stringify([corners, turn, tone]);
}

/** The entries of the pages that are there, in one order. */
function ofPages<T>(row: Record<string, T>, here: Set<number>): Record<string, T> {
  const kept = Object.entries(row).filter(([page]) => here.has(Number(page)));
  return Object.fromEntries(kept.sort(([a], [b]) => Number(a) - Number(b)));
}

/** An earlier arrangement, with the pages that have come since kept, and those that have gone left out. */
export function carriedTo(earlier: Arrangement, now: Arrangement): Arrangement {
  const here = new Set(now.order);
  const kept = new Set(earlier.order);
  const placements = Object.entries(earlier.placements)
    .map(([label, spots]) => [label, spots.filter((spot) => here.has(spot.page))] as const)
    .filter(([, spots]) => spots.length > 0);
  return {
    order: [...earlier.order.filter((page) => here.has(page)), ...now.order.filter((page) => !kept.has(page))],
    removed: earlier.removed.filter((page) => here.has(page)),
    loose: earlier.loose.filter((page) => here.has(page)),
    placements: Object.fromEntries(placements),
    left_blank: earlier.left_blank,
    recipes: ofPages(earlier.recipes, here),
    dismissed: ofPages(earlier.dismissed, here),
    sides: earlier.sides,
    comment: earlier.comment,
    notes: ofPages(earlier.notes, here),
  };
}

/** One spelling for one arrangement, to compare two. */
export function fingerprint(a: Arrangement): string {
  const placements = Object.keys(a.placements)
    .sort()
    .map((label) => [label, [...(a.placements[label] ?? [])].sort((x, y) => x.page - y.page)]);
  const here = new Set(a.order);
  const recipes = Object.entries(ofPages(a.recipes, here)).map(([page, recipe]) => [page, spelled(recipe)]);
  const sets = [a.removed, a.loose, a.left_blank].map((row) => [...row].sort());
  const words = [a.sides, a.comment, ofPages(a.notes, here)];
  return JSON.stringify([a.order, sets, placements, recipes, ofPages(a.dismissed, here), words]);
}

/** Whether all that happened between two states is that pages arrived, or proved to be none. */
export function onlyPagesCame(before: Arrangement, after: Arrangement): boolean {
  return fingerprint(carriedTo(before, after)) === fingerprint(after) || arrivedInside(before, after);
}

/**
 * Where a page was taken again: the state before it, with the new picture among the removed ones, so that one undo
 * brings the old picture back and loses neither. Null where something else happened.
 */
export function beforeRetake(before: Arrangement, after: Arrangement): Arrangement | null {
  const old = after.removed.filter((page) => !before.removed.includes(page));
  const came = after.order.filter((page) => !before.order.includes(page));
  if (old.length !== 1 || came.length !== 1) return null;
  const order = after.order.filter((page) => !came.includes(page));
  if (order.join() !== before.order.join()) return null;
  return { ...before, order: after.order, removed: [...before.removed, ...came] };
}

/** A PDF's further pages come in after its first, not at the end. */
function arrivedInside(before: Arrangement, after: Arrangement): boolean {
  const known = new Set(before.order);
  const order = after.order.filter((page) => known.has(page));
  return fingerprint(carriedTo(before, { ...after, order })) === fingerprint({ ...after, order });
}

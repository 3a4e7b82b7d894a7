import type { Schemas } from "../shared/api/client";
import { isOnPages } from "./answers/content";

/** Pages and questions are named by their ids; a question's label is for the eye only. */
export type Arrangement = Schemas["ArrangementDoc"];
export type Recipe = Schemas["RecipeDoc"];
type Code = Schemas["AdviceOut"]["code"];
export type Change = (from: Arrangement) => Arrangement;

/** What each field holds. All that goes over every field follows from this list: comparing, carrying over, sending. */
export type Kind = "order" | "pages" | "questions" | "placements" | "by page" | "plain";
const FIELDS = {
  order: "order",
  removed: "pages",
  loose: "pages",
  placements: "placements",
  left_blank: "questions",
  recipes: "by page",
  dismissed: "by page",
  sides: "plain",
  comment: "plain",
  notes: "by page",
  descriptions: "by page",
  scales: "by page",
} as const satisfies Record<keyof Required<Arrangement>, Kind>;
const NAMES = Object.keys(FIELDS) as (keyof Arrangement)[];

/** The pages that will be handed in, in order. */
export function pagesOf(a: Arrangement): readonly number[] {
  return a.removed.length === 0 ? a.order : a.order.filter((page) => !a.removed.includes(page));
}

export function questionsOn(a: Arrangement, page: number): string[] {
  return Object.keys(a.placements).filter((question) => isPlaced(a, question, page));
}

/** The same of every page that has any, in one go. */
export function questionsByPage(a: Arrangement): ReadonlyMap<number, string[]> {
  const found = new Map<number, string[]>();
  for (const [question, spots] of Object.entries(a.placements))
    for (const page of new Set(spots.map((spot) => spot.page))) found.set(page, [...(found.get(page) ?? []), question]);
  return found;
}

export function isPlaced(a: Arrangement, question: string, page: number): boolean {
  return (a.placements[question] ?? []).some((spot) => spot.page === page);
}

/** The pages a question is on, of those that are there. */
export function pagesWith(a: Arrangement, question: string): number[] {
  return pagesOf(a).filter((page) => isPlaced(a, question, page));
}

type Kinds = Schemas["QuestionOut"]["kinds"];
type Choice = Pick<Schemas["QuestionOut"], "group" | "choose">;
/** `given`: what of it is there on the screen. */
type Asked = Pick<Schemas["QuestionOut"], "id"> & { kinds?: Kinds | undefined; given?: readonly Kinds[number][] | undefined };
type ToAnswer = Choice & Asked;

/** What is asked for and not there, as `folio_core.placing.is_given`. */
export function missingKinds(a: Arrangement, { id, kinds = ["pages"], given = [] }: Asked): Kinds {
  const hasPages = pagesWith(a, id).length > 0;
  return kinds.filter((kind) => (isOnPages(kind) ? !hasPages : !given.includes(kind)));
}

function isGiven(a: Arrangement, question: Asked): boolean {
  return missingKinds(a, question).length === 0;
}

/** As `folio_core.placing.is_answered`; both are held to `core/tests/readiness.json`. */
export function isAnswered(a: Arrangement, question: Asked): boolean {
  return a.left_blank.includes(question.id) || isGiven(a, question);
}

/** Of "any n of" the questions are not open once n of them have pages; a bonus never is. As in the core. */
export function openQuestions<Q extends ToAnswer>(a: Arrangement, questions: readonly Q[]): Q[] {
  const complete = (group: string) => questions.filter((one) => one.group === group && isGiven(a, one)).length;
  const enough = new Map(questions.map(({ group, choose }) => [group, group !== "" && complete(group) >= (choose ?? 0)]));
  return questions.filter((one) => !enough.get(one.group) && !isAnswered(a, one));
}

/** How many questions are to be answered, of a group "any 3 of 5" three and of a bonus none, and how many of them are. */
export function settled(a: Arrangement, questions: readonly ToAnswer[]): { answered: number; of: number } {
  const open = openQuestions(a, questions);
  const sum = { answered: 0, of: 0 };
  for (const group of new Set(questions.map((one) => one.group))) {
    const members = questions.filter((one) => one.group === group);
    const of = group === "" ? members.length : (members[0]?.choose ?? 0);
    const openHere = open.filter((one) => one.group === group).length;
    const complete = members.filter((one) => isGiven(a, one)).length;
    sum.of += of;
    if (group === "") sum.answered += of - openHere;
    else sum.answered += openHere > 0 ? complete : of;
  }
  return sum;
}

/** "any 2 of 4", "bonus"; nothing for a question that everybody is to answer. */
export function choiceWords({ group, choose }: Choice, questions: readonly Choice[]): string {
  if (group === "") return "";
  return choose ? `any ${choose} of ${questions.filter((one) => one.group === group).length}` : "bonus";
}

/** A page that is there, on which nothing is placed and which is not loose. */
export function isOpenPage(a: Arrangement, page: number): boolean {
  return questionsOn(a, page).length === 0 && !a.loose.includes(page);
}

export const place =
  (questions: readonly string[], pages: readonly number[]): Change =>
  (a) => {
    if (pages.length === 0) return a;
    const placements = { ...a.placements };
    for (const question of questions) {
      const missing = pages.filter((page) => !isPlaced(a, question, page));
      placements[question] = [...(a.placements[question] ?? []), ...missing.map((page) => ({ page, top: null }))];
    }
    return {
      ...a,
      placements,
      left_blank: a.left_blank.filter((question) => !questions.includes(question)),
      loose: a.loose.filter((page) => !pages.includes(page)),
    };
  };

export const takeOff =
  (question: string, pages: readonly number[]): Change =>
  (a) => {
    const rest = (a.placements[question] ?? []).filter((spot) => !pages.includes(spot.page));
    const others = Object.entries(a.placements).filter(([other]) => other !== question);
    const all = rest.length > 0 ? [...others, [question, rest] as const] : others;
    return { ...a, placements: Object.fromEntries(all) };
  };

/** A question left blank stands on no page. */
export const setLeftBlank =
  (question: string, blank: boolean): Change =>
  (a) => {
    const left_blank = a.left_blank.filter((other) => other !== question);
    if (!blank) return { ...a, left_blank };
    return { ...takeOff(question, a.order)(a), left_blank: [...left_blank, question] };
  };

/** A loose page answers no question. */
export const setLoose =
  (page: number, loose: boolean): Change =>
  (a) => {
    const others = a.loose.filter((other) => other !== page);
    if (!loose) return { ...a, loose: others };
    const cleared = Object.keys(a.placements).reduce((so_far, question) => takeOff(question, [page])(so_far), a);
    return { ...cleared, loose: [...others, page] };
  };

/** A page that is removed keeps its place and its questions, so that restoring it brings all back. */
export const setRemoved =
  (page: number, removed: boolean): Change =>
  (a) => {
    const others = a.removed.filter((other) => other !== page);
    if (removed) return { ...a, removed: [...others, page] };
    const questions = questionsOn(a, page);
    return {
      ...a,
      removed: others,
      left_blank: a.left_blank.filter((question) => !questions.includes(question)),
      loose: questions.length > 0 ? a.loose.filter((other) => other !== page) : a.loose,
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

/** Where on a page the answer to a question begins: 0 at its top edge, 1 at its bottom; null: unsaid. */
export const setTop =
  (question: string, page: number, top: number | null): Change =>
  (a) => {
    if (!isPlaced(a, question, page)) return a;
    const spots = a.placements[question]?.map((spot) => (spot.page === page ? { ...spot, top } : spot)) ?? [];
    return { ...a, placements: { ...a.placements, [question]: spots } };
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
  (a) => ({ ...a, notes: withWords(a.notes, page, note) });

/** What a picture shows, for those who cannot see it. */
export const setDescription =
  (page: number, words: string): Change =>
  (a) => ({ ...a, descriptions: withWords(a.descriptions, page, words) });

/** Of how wide it could be bound, how wide a picture is bound. */
export const SCALES = [1, 0.75, 0.5] as const;

export const setScale =
  (page: number, scale: number): Change =>
  (a) => {
    const rest = Object.entries(a.scales).filter(([other]) => Number(other) !== page);
    return { ...a, scales: Object.fromEntries(scale === 1 ? rest : [...rest, [page, scale] as const]) };
  };

function withWords(by_page: Record<string, string>, page: number, words: string): Record<string, string> {
  const rest = Object.entries(by_page).filter(([other]) => Number(other) !== page);
  return Object.fromEntries(words ? [...rest, [page, words] as const] : rest);
}

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

/** One spelling of a value, whatever the order of its keys. */
function spelled(value: unknown): string {
  const sorted = (_: string, one: unknown) =>
    one !== null && typeof one === "object" && !Array.isArray(one)
      ? Object.fromEntries(Object.entries(one).sort(([a], [b]) => (a < b ? -1 : 1)))
      : one;
  return JSON.stringify(value, sorted);
}

/** The entries of the pages that are there. */
function ofPages(row: Record<string, unknown>, here: Set<number>): Record<string, unknown> {
  return Object.fromEntries(Object.entries(row).filter(([page]) => here.has(Number(page))));
}

export type Spots = Arrangement["placements"];

function placedOn(placements: Spots, here: Set<number>): Spots {
  const kept = Object.entries(placements).map(([question, spots]) => [question, spots.filter((spot) => here.has(spot.page))] as const);
  return Object.fromEntries(kept.filter(([, spots]) => spots.length > 0));
}

/** An earlier arrangement, with the pages that have come since kept, and those that have gone left out. */
export function carriedTo(earlier: Arrangement, now: Arrangement): Arrangement {
  const here = new Set(now.order);
  const kept = new Set(earlier.order);
  const carried: Record<Kind, (value: never, ofNow: never) => unknown> = {
    order: (pages: number[]) => [...pages.filter((page) => here.has(page)), ...now.order.filter((page) => !kept.has(page))],
    // What has come since stays as it is: a new picture that gave way to the old one again does not come back.
    pages: (pages: number[], those: number[]) => [...pages.filter((page) => here.has(page)), ...those.filter((page) => !kept.has(page))],
    placements: (placements: Spots) => placedOn(placements, here),
    "by page": (row: Record<string, unknown>) => ofPages(row, here),
    questions: (questions: string[]) => questions,
    plain: (value: unknown) => value,
  };
  return eachField((kind, name) => carried[kind](earlier[name] as never, now[name] as never));
}

/** An arrangement put together field by field. */
export function eachField(value: (kind: Kind, name: keyof Arrangement) => unknown): Arrangement {
  return Object.fromEntries(NAMES.map((name) => [name, value(FIELDS[name], name)])) as Arrangement;
}

/** One spelling for one arrangement, to compare two. */
export function fingerprint(a: Arrangement): string {
  const here = new Set(a.order);
  const written: Record<Kind, (value: never) => unknown> = {
    order: (pages: number[]) => pages,
    pages: (pages: number[]) => [...pages].sort((x, y) => x - y),
    questions: (questions: string[]) => [...questions].sort(),
    placements: (placements: Spots) =>
      Object.fromEntries(
        Object.entries(placements)
          .filter(([, spots]) => spots.length > 0)
          .map(([question, spots]) => [question, [...spots].sort((x, y) => x.page - y.page)]),
      ),
    "by page": (row: Record<string, unknown>) => ofPages(row, here),
    plain: (value: unknown) => value ?? null,
  };
  return spelled(NAMES.map((name) => written[FIELDS[name]](a[name] as never)));
}

/** Whether all that happened between two states is that pages arrived, or proved to be none. */
export function onlyPagesCame(before: Arrangement, after: Arrangement): boolean {
  return fingerprint(carriedTo(before, after)) === fingerprint(after) || arrivedInside(before, after);
}

/** A PDF's further pages come in after its first, not at the end. */
function arrivedInside(before: Arrangement, after: Arrangement): boolean {
  const known = new Set(before.order);
  const order = after.order.filter((page) => known.has(page));
  return fingerprint(carriedTo(before, { ...after, order })) === fingerprint({ ...after, order });
}

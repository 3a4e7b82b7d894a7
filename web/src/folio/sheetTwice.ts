import type { Schemas } from "../shared/api/client";
import { list } from "../shared/words";
import { SHORT } from "./advice";
import { type Arrangement, type Change, isPlaced, pagesOf, pagesWith, place, questionsOn, setDismissed, setRemoved, together } from "./arrangement";

export type Twice = Schemas["TwiceOut"];
type Drawback = Twice["worse"][number]["drawback"];

const DRAWBACKS: Record<Schemas["Drawback"], string> = {
  anothers_copy: "another student's copy",
  less_written: "less is written on it",
  not_all_seen: "not all of it is seen",
  less_sharp: "less sharp",
  nothing: "as good",
};

/** Of what the server told of pages that are the same page of the paper, what was not settled here since. */
export function stillTwice(twice: readonly Twice[], arrangement: Arrangement): Twice[] {
  const here = pagesOf(arrangement);
  const meant = (page: number) => (arrangement.dismissed[page] ?? []).includes("seen_before");
  return twice.filter(({ pages }) => pages.every((page) => here.includes(page)) && pages.filter((page) => !meant(page)).length > 1);
}

/** "Pages 1 and 4 are the same page of the paper" */
export function twiceWords({ pages }: Twice, number: (page: number) => number): string {
  return `Pages ${list(pages.map((page) => String(number(page))))} are the same page of the paper`;
}

/** Which of them is the better one, and why. */
export function betterWords({ better, worse }: Twice, number: (page: number) => number): string {
  if (better === null) return "Each may show writing that the other does not. Look at them before you remove one.";
  const words = (drawback: Drawback) => (drawback in DRAWBACKS ? DRAWBACKS[drawback as Schemas["Drawback"]] : SHORT[drawback as Schemas["Advice"]]);
  if (worse.every(({ drawback }) => drawback === "nothing")) return `They show the same, equally well.`;
  return `Page ${number(better)} is the better picture (${worse.map(({ page, drawback }) => `page ${number(page)}: ${words(drawback)}`).join("; ")}).`;
}

/** The better one alone; what stood only on the others stands on it. */
export function keepOnly(better: number, worse: readonly number[]): Change {
  return (a) => {
    const onlyThere = worse.flatMap((page) => questionsOn(a, page)).filter((one) => !isPlaced(a, one, better) && pagesWith(a, one).every((page) => worse.includes(page)));
    const along = onlyThere.length > 0 ? [place([...new Set(onlyThere)], [better])] : [];
    return together(...along, ...worse.map((page) => setRemoved(page, true)))(a);
  };
}

/** The student means all of them. */
export function keepAll(pages: readonly number[]): Change {
  return together(...pages.slice(1).map((page) => setDismissed(page, "seen_before", true)));
}

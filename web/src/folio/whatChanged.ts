import { count, list } from "../shared/words";
import { type Arrangement, pagesOf } from "./arrangement";

/** How one arrangement differs from the one before, in a few words: for a step that was not made here. */
export function whatChanged(before: Arrangement, after: Arrangement): string {
  const [was, is] = [pagesOf(before), pagesOf(after)];
  const came = is.filter((page) => !was.includes(page)).length;
  const went = was.filter((page) => !is.includes(page)).length;
  const stayed = (pages: readonly number[], others: readonly number[]) => pages.filter((page) => others.includes(page));
  const differ = (a: Record<string, unknown>, b: Record<string, unknown>) =>
    [...new Set([...Object.keys(a), ...Object.keys(b)])].filter((key) => JSON.stringify(a[key]) !== JSON.stringify(b[key])).length;
  const places = differ(before.placements, after.placements);
  const recipes = differ(before.recipes, after.recipes);
  const facts = [
    came > 0 && `${count(came, "page")} added`,
    went > 0 && `${count(went, "page")} removed`,
    stayed(was, is).join() !== stayed(is, was).join() && "another order",
    places > 0 && `${count(places, "question")} placed otherwise`,
    before.left_blank.join() !== after.left_blank.join() && "other questions left blank",
    before.loose.join() !== after.loose.join() && "other loose pages",
    recipes > 0 && `${count(recipes, "page")} turned or corrected`,
    before.comment !== after.comment && "the word to the reader",
    differ(before.notes, after.notes) > 0 && "words on pages",
    differ(before.descriptions, after.descriptions) > 0 && "descriptions of pictures",
    differ(before.scales, after.scales) > 0 && "the size of pictures",
    before.sides !== after.sides && "the number of sides",
  ].filter((fact) => fact !== false);
  return list(facts);
}

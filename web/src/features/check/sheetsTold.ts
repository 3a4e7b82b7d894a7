import type { Schemas } from "../../shared/api/client";
import { type Arrangement, pagesOf } from "../../folio/arrangement";
import { betterWords, stillTwice, twiceWords } from "../../folio/sheetTwice";
import { list } from "../../shared/words";

interface Told {
  term: string;
  words: string;
  alarm: boolean;
}

/** What is told of printed sheets before they are handed in. */
export function toldOfSheets(sheets: Schemas["SheetsOut"], arrangement: Arrangement, named: (questions: string[]) => string): Told[] {
  const ids = pagesOf(arrangement);
  const number = (page: number) => ids.indexOf(page) + 1;
  const several = (pages: readonly number[]) => `${pages.length === 1 ? "Page" : "Pages"} ${list(pages.map(String))}`;
  const { missing, empty } = sheets;
  const others = sheets.others.filter((page) => ids.includes(page)).map(number);
  return [
    ...(missing.length > 0 ? [{ term: `${several(missing)} of the printed paper`, words: `${missing.length === 1 ? "is" : "are"} not here.`, alarm: true }] : []),
    ...(empty.length > 0 ? [{ term: `${named(empty)} empty`, words: "Nothing was seen in the printed space. Leave it so if that is meant.", alarm: false }] : []),
    ...stillTwice(sheets.twice, arrangement).map((one) => ({ term: twiceWords(one, number), words: betterWords(one, number), alarm: true })),
    ...(others.length > 0 ? [{ term: `${several(others)} another student's?`, words: "Printed with another student's code.", alarm: true }] : []),
  ];
}

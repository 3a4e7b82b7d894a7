import fc from "fast-check";
import { describe, expect, test } from "vitest";
import examples from "../../../core/tests/readiness.json";
import {
  type Arrangement,
  carriedTo,
  type Change,
  fingerprint,
  isAnswered,
  isOpenPage,
  isPlaced,
  move,
  onlyPagesCame,
  openQuestions,
  pagesOf,
  pagesWith,
  place,
  questionsByPage,
  questionsOn,
  setComment,
  setLeftBlank,
  setLoose,
  setNote,
  setRemoved,
  setSides,
  setTop,
  settled,
  takeOff,
  together,
} from "./arrangement";
import { layInOrder } from "./ordering";

const LABELS = ["1a", "1b", "2", "3"];
const PAGES = [10, 11, 12, 13, 14];

function fresh(order: number[] = PAGES): Arrangement {
  return { order, removed: [], loose: [], placements: {}, left_blank: [], recipes: {}, dismissed: {}, sides: null, comment: "", notes: {}, descriptions: {}, scales: {} };
}

function after(...changes: Change[]): Arrangement {
  return changes.reduce((now, change) => change(now), fresh());
}

type Kinds = Record<string, ("pages" | "chosen" | "short" | "written" | "pictures")[]>;

test.each(examples)("$why: the core and the board find the same questions answered", ({ map, arrangement, answered, open_pages, ...more }) => {
  const { kinds = {}, given = {} } = more as { kinds?: Kinds; given?: Kinds };
  const a = { ...fresh([]), ...(arrangement as unknown as Arrangement) };
  const ids = map.replace("1a-b", "1a, 1b").replace("any 2 of (2-5)", "2, 3, 4, 5").replace(/bonus \((\d)\)/, "$1").split(", ");
  expect(ids.filter((id) => isAnswered(a, { id, kinds: kinds[id], given: given[id] }))).toEqual(answered);
  expect(pagesOf(a).filter((page) => isOpenPage(a, page))).toEqual(open_pages);
});

test.each(examples.filter((one) => "choose" in one))("$why: the core and the board say the same of a choice", (one) => {
  const a = { ...fresh([]), ...(one.arrangement as unknown as Arrangement) };
  const { kinds = {}, given = {} } = one as { kinds?: Kinds; given?: Kinds };
  const questions = Object.entries(one.choose ?? {}).map(([id, choose]) => ({
    id,
    choose,
    group: choose === null ? "" : `${choose}`,
    kinds: kinds[id],
    given: given[id],
  }));
  expect(openQuestions(a, questions).map(({ id }) => id)).toEqual(one.open);
  const { answered, of } = settled(a, questions);
  expect([answered, of]).toEqual(one.settled);
});

describe("placing", () => {
  test("many labels go on many pages", () => {
    const a = after(place(["1a", "1b"], [10, 11]));
    expect(questionsOn(a, 10)).toEqual(["1a", "1b"]);
    expect(pagesWith(a, "1b")).toEqual([10, 11]);
  });

  test("placing again keeps where an answer begins", () => {
    const a: Arrangement = { ...fresh(), placements: { "2": [{ page: 10, top: 0.4 }] } };
    expect(place(["2"], [10, 11])(a).placements["2"]).toEqual([
      { page: 10, top: 0.4 },
      { page: 11, top: null },
    ]);
  });

  test("a label that is placed is no longer left blank, and its page no longer loose", () => {
    const a = after(setLeftBlank("2", true), setLoose(10, true), place(["2"], [10]));
    expect(a.left_blank).toEqual([]);
    expect(a.loose).toEqual([]);
  });

  test("taking a label off its last page leaves it open", () => {
    const a = after(place(["2"], [10]), takeOff("2", [10]));
    expect(isAnswered(a, { id: "2" })).toBe(false);
    expect(a.placements).toEqual({});
  });
});

describe("left blank and loose", () => {
  test("a question left blank stands on no page", () => {
    const a = after(place(["2"], [10, 11]), setLeftBlank("2", true));
    expect(pagesWith(a, "2")).toEqual([]);
    expect(isAnswered(a, { id: "2" })).toBe(true);
  });

  test("a loose page answers nothing", () => {
    const a = after(place(LABELS, [10]), setLoose(10, true));
    expect(questionsOn(a, 10)).toEqual([]);
    expect(a.loose).toEqual([10]);
  });

  test("both can be taken back", () => {
    const a = after(setLeftBlank("2", true), setLoose(10, true), setLeftBlank("2", false), setLoose(10, false));
    expect(fingerprint(a)).toBe(fingerprint(fresh()));
  });
});

describe("removing and restoring", () => {
  test("a removed page comes back with its place and its questions", () => {
    const before = after(place(["1a"], [11]), move([11], 13));
    const back = setRemoved(11, false)(setRemoved(11, true)(before));
    expect(fingerprint(back)).toBe(fingerprint(before));
  });

  test("while it is away its questions are open", () => {
    const a = after(place(["1a"], [11]), setRemoved(11, true));
    expect(pagesOf(a)).toEqual([10, 12, 13, 14]);
    expect(isAnswered(a, { id: "1a" })).toBe(false);
  });

  test("what was left blank meanwhile is placed again", () => {
    const a = after(place(["1a"], [11]), setRemoved(11, true), (now) => ({ ...now, left_blank: ["1a"] }));
    expect(setRemoved(11, false)(a).left_blank).toEqual([]);
  });
});

describe("moving", () => {
  test("a page takes the place of another, forwards and backwards", () => {
    expect(after(move([10], 12)).order).toEqual([11, 12, 10, 13, 14]);
    expect(after(move([14], 10)).order).toEqual([14, 10, 11, 12, 13]);
  });

  test("moving to itself or to a page that is not there changes nothing", () => {
    expect(after(move([10], 10)).order).toEqual(PAGES);
    expect(after(move([10], 99)).order).toEqual(PAGES);
  });
});

describe("pages that come while one works", () => {
  test("an earlier state is carried over with the new pages kept", () => {
    const earlier = after(move([14], 10));
    const now = { ...fresh(), order: [...PAGES, 15] };
    expect(carriedTo(earlier, now).order).toEqual([14, 10, 11, 12, 13, 15]);
  });

  test("a page that proved to be none is left out of it", () => {
    const earlier = after(place(["2"], [12]), setLoose(13, true));
    const now = fresh([10, 11, 14]);
    expect(carriedTo(earlier, now)).toEqual(fresh([10, 11, 14]));
  });

  test("coming pages are told from changes made elsewhere", () => {
    const mine = after(place(["2"], [12]));
    expect(onlyPagesCame(mine, { ...mine, order: [...mine.order, 15, 16] })).toBe(true);
    expect(onlyPagesCame(mine, { ...mine, order: [10, 20, 21, 11, 12, 13, 14] })).toBe(true);
    expect(onlyPagesCame(mine, { ...mine, left_blank: ["3"] })).toBe(false);
    expect(onlyPagesCame(mine, { ...mine, order: [11, 10, 12, 13, 14] })).toBe(false);
  });
});

const page = fc.constantFrom(...PAGES);
const label = fc.constantFrom(...LABELS);
const aChange: fc.Arbitrary<Change> = fc.oneof(
  fc.tuple(fc.array(label), fc.array(page)).map(([labels, pages]) => place([...new Set(labels)], [...new Set(pages)])),
  fc.tuple(label, fc.array(page)).map(([one, pages]) => takeOff(one, pages)),
  fc.tuple(label, fc.boolean()).map(([one, on]) => setLeftBlank(one, on)),
  fc.tuple(page, fc.boolean()).map(([one, on]) => setLoose(one, on)),
  fc.tuple(page, fc.boolean()).map(([one, on]) => setRemoved(one, on)),
  fc.tuple(fc.array(page), page).map(([some, other]) => move(some, other)),
  fc.tuple(label, page, fc.double({ min: 0, max: 1, noNaN: true })).map(([one, on, top]) => setTop(one, on, top)),
  fc.tuple(page, fc.string()).map(([one, note]) => setNote(one, note)),
  fc.tuple(fc.option(fc.nat(99)), fc.string()).map(([sides, words]) => together(setSides(sides), setComment(words))),
  fc.shuffledSubarray(PAGES).map((order) => layInOrder(order)),
);

/** The invariants the server's core holds an arrangement to (core/folio_core/placing/arrangement.py). */
function broken(a: Arrangement): string {
  if ([...a.order].sort().join() !== PAGES.join()) return "a page is lost or doubled";
  for (const spots of Object.values(a.placements))
    if (new Set(spots.map((spot) => spot.page)).size !== spots.length) return "placed twice on one page";
  if (a.left_blank.some((one) => pagesWith(a, one).length > 0)) return "placed and left blank";
  const here = pagesOf(a);
  if (a.loose.some((one) => here.includes(one) && questionsOn(a, one).length > 0)) return "loose and placed";
  return "";
}

describe("any sequence of changes", () => {
  test("what is on each page is the same whether it is asked of one page or of all", () => {
    fc.assert(
      fc.property(fc.array(aChange, { maxLength: 30 }), (changes) => {
        const a = after(...changes);
        const all = questionsByPage(a);
        for (const one of PAGES) expect((all.get(one) ?? []).toSorted()).toEqual(questionsOn(a, one).toSorted());
      }),
    );
  });

  test("keeps every page once and never contradicts itself", () => {
    fc.assert(
      fc.property(fc.array(aChange, { maxLength: 30 }), (changes) => {
        expect(broken(after(...changes))).toBe("");
      }),
    );
  });

  test("made on a state with more pages keeps those too", () => {
    fc.assert(
      fc.property(fc.array(aChange, { maxLength: 20 }), (changes) => {
        const start = fresh([...PAGES, 20, 21]);
        const end = changes.reduce((now, change) => change(now), start);
        expect([...end.order].sort()).toEqual([...start.order].sort());
      }),
    );
  });

  test("undone by its earlier state is as if it had not been", () => {
    fc.assert(
      fc.property(fc.array(aChange, { maxLength: 20 }), aChange, (changes, last) => {
        const before = after(...changes);
        expect(fingerprint(carriedTo(before, last(before)))).toBe(fingerprint(before));
      }),
    );
  });

  test("is the same twice as once", () => {
    fc.assert(
      fc.property(fc.array(aChange, { maxLength: 20 }), label, page, (changes, one, on) => {
        const placed = place([one], [on])(after(...changes));
        expect(isPlaced(placed, one, on)).toBe(true);
        expect(fingerprint(place([one], [on])(placed))).toBe(fingerprint(placed));
      }),
    );
  });
});

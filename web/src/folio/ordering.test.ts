import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { type Arrangement, pagesOf, place, setRemoved, setTop, together } from "./arrangement";
import { contradictions, inReadingOrder, lastOnPageBefore, layInOrder, ordered } from "./ordering";

const MAP = ["1a", "1b", "2", "3"].map((label) => ({ id: label, label }));

function fresh(order: number[]): Arrangement {
  return {
    order, removed: [], loose: [], placements: {}, left_blank: [], recipes: {}, dismissed: {}, sides: null, comment: "", notes: {}, descriptions: {}, scales: {},
  };
}

function page(id: number, file_name: string, taken = "", index = 0, half: "" | "left" | "right" = "") {
  return { id, file_name, index, half, taken };
}

describe("an order", () => {
  test("by file name counts the numbers in it", () => {
    const pages = [page(1, "IMG_10.jpg"), page(2, "img_9.jpg"), page(3, "IMG_100.jpg")];
    expect(ordered("name", fresh([1, 2, 3]), pages, MAP)).toEqual([2, 1, 3]);
  });

  test("by file name keeps the pages of one document together and in their order", () => {
    const pages = [page(1, "b.pdf", "", 1), page(2, "a.jpg"), page(3, "b.pdf", "", 0)];
    expect(ordered("name", fresh([1, 2, 3]), pages, MAP)).toEqual([2, 3, 1]);
  });

  test("by file name puts the left page of an open book before the right one", () => {
    const pages = [page(1, "a.jpg", "", 0, "right"), page(2, "a.jpg", "", 0, "left")];
    expect(ordered("name", fresh([1, 2]), pages, MAP)).toEqual([2, 1]);
  });

  test("by time leaves a page without a time behind the one it follows", () => {
    const pages = [page(1, "a", "2026:11:24 15:00:09"), page(2, "scan"), page(3, "b", "2026:11:24 15:00:01")];
    expect(ordered("taken", fresh([1, 2, 3]), pages, MAP)).toEqual([3, 1, 2]);
    expect(ordered("taken", fresh([2, 1, 3]), pages, MAP)).toEqual([2, 3, 1]);
  });

  test("by questions puts the page first on which an answer begins", () => {
    const a = together(place(["2"], [1, 3]), place(["1a"], [2]), place(["3"], [3]))(fresh([1, 2, 3, 4]));
    expect(ordered("questions", a, [], MAP)).toEqual([2, 1, 3, 4]);
  });

  test("leaves removed pages behind the page they were behind", () => {
    const a = setRemoved(2, true)(fresh([1, 2, 3]));
    expect(layInOrder([3, 1])(a).order).toEqual([3, 1, 2]);
  });

  test("of any kind loses no page and doubles none", () => {
    const kinds = fc.constantFrom("reversed", "taken", "name", "questions");
    const ids = [1, 2, 3, 4, 5];
    const names = fc.array(fc.string({ maxLength: 4 }), { minLength: 5, maxLength: 5 });
    fc.assert(
      fc.property(kinds, fc.shuffledSubarray(ids, { minLength: 5 }), names, fc.subarray(ids), (kind, order, texts, gone) => {
        const a = together(...gone.map((id) => setRemoved(id, true)))(fresh(order));
        const pages = ids.map((id, at) => page(id, texts[at] ?? "", texts[id % 5] ?? ""));
        const laid = layInOrder(ordered(kind, a, pages, MAP))(a);
        expect([...laid.order].sort()).toEqual(ids);
        expect([...pagesOf(laid)].sort()).toEqual([...pagesOf(a)].sort());
      }),
    );
  });
});

describe("what is said of a page", () => {
  const a = together(place(["1a", "1b"], [1]), setTop("1a", 1, 0.7), setTop("1b", 1, 0.1))(fresh([1, 2]));

  test("an answer runs on from the lowest on the page before", () => {
    expect(lastOnPageBefore(a, 2, MAP)).toBe("1a");
    expect(lastOnPageBefore(a, 1, MAP)).toBeNull();
  });

  test("labels are read in the order of the map", () => {
    expect(inReadingOrder(a, 1, MAP)).toEqual(["1a", "1b"]);
  });

  test("a question that begins before an earlier one is pointed out", () => {
    const odd = together(place(["1a"], [2]), place(["2"], [1]))(fresh([1, 2]));
    expect(contradictions(odd, MAP)).toEqual([{ before: "1a", after: "2", pages: [1, 2] }]);
    expect(contradictions(a, MAP)).toEqual([]);
  });

  test("it is pointed out exactly where its first page lies before that of the question before it", () => {
    const spots = fc.array(fc.constantFrom(1, 2, 3, 9), { maxLength: 3 }); // 9 is no page of the folio
    fc.assert(
      fc.property(fc.array(spots, { minLength: MAP.length, maxLength: MAP.length }), (placed) => {
        const rows = MAP.map(({ label }, at) => [label, (placed[at] ?? []).map((page) => ({ page, top: null }))] as const);
        const b = { ...fresh([3, 1, 2]), placements: Object.fromEntries(rows) };
        const first = (label: string) => [3, 1, 2].findIndex((page) => b.placements[label]?.some((spot) => spot.page === page));
        const begun = MAP.map(({ label }) => ({ label, at: first(label) })).filter(({ at }) => at >= 0);
        const odd = begun.flatMap((one, n) => (n > 0 && one.at < (begun[n - 1]?.at ?? 0) ? [one.label] : []));
        expect(contradictions(b, MAP).map((one) => one.after)).toEqual(odd);
      }),
    );
  });
});

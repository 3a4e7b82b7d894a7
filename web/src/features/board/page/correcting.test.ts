import { describe, expect, test } from "vitest";
import type { Schemas } from "../../../shared/api/client";
import { adviceOf } from "../../../folio/advice";
import {
  type Arrangement, carriedTo, type Change, correct, fingerprint, move, place, recipeOf, setDismissed, setRemoved, takeOff,
} from "../../../folio/arrangement";
import { beforeRetake, retakenBetween, throughRetake } from "../../../folio/retake";

const START: Arrangement = {
  order: [1, 2],
  removed: [],
  loose: [],
  placements: { "1a": [{ page: 1, top: 0.5 }] },
  left_blank: [],
  recipes: {},
  dismissed: {},
  sides: null,
  comment: "",
  notes: {}, descriptions: {},
  scales: {},
};

describe("a correction", () => {
  test("is remembered for its page alone, part by part", () => {
    const turned = correct([1], { turn: 90 })(START);
    const both = correct([1], { tone: "ink" })(turned);
    expect(recipeOf(both, 1)).toEqual({ corners: null, turn: 90, tone: "ink" });
    expect(recipeOf(both, 2)).toEqual({ corners: null, turn: null, tone: "clean" });
    expect(fingerprint(both)).not.toBe(fingerprint(turned));
  });

  test("taken back leaves nothing behind", () => {
    const back = correct([1], { turn: null })(correct([1], { turn: 90 })(START));
    expect(fingerprint(back)).toBe(fingerprint(START));
  });

  test("of the tone can be of all pages at once", () => {
    const all = correct([1, 2], { tone: "photo" })(START);
    expect([recipeOf(all, 1).tone, recipeOf(all, 2).tone]).toEqual(["photo", "photo"]);
  });

  test("is carried along by undo, without pages that have gone", () => {
    const earlier = correct([1, 2], { turn: 180 })(START);
    expect(Object.keys(carriedTo(earlier, { ...START, order: [2] }).recipes)).toEqual(["2"]);
  });
});

describe("a page taken again", () => {
  const after: Arrangement = {
    ...START,
    order: [1, 3, 2],
    removed: [1],
    placements: { "1a": [{ page: 1, top: 0.5 }, { page: 3, top: 0.5 }] },
  };

  test("can be undone: the old picture comes back and the new one is kept among the removed", () => {
    const retake = retakenBetween(START, after);
    expect(retake).toEqual({ old: 1, came: 3 });
    const before = beforeRetake(START, { old: 1, came: 3 });
    expect(before.order).toEqual([1, 3, 2]);
    expect(before.removed).toEqual([3]);
    expect(before.placements).toEqual(START.placements);
  });

  test("is not seen in anything else", () => {
    expect(retakenBetween(START, { ...START, order: [1, 2, 3] })).toBeNull();
    expect(retakenBetween(START, { ...after, order: [2, 3, 1] })).toBeNull();
  });

  test("takes along what was done to it meanwhile", () => {
    const retake = { old: 1, came: 3 };
    const made = (change: Change) => throughRetake(change, retake)(after);
    expect(made((a) => a)).toEqual(after);
    expect(made(place(["2"], [1])).placements["2"]).toEqual([{ page: 3, top: null }]);
    expect(made(takeOff("1a", [1])).placements["1a"]).toEqual([{ page: 1, top: 0.5 }]); // as it was, if it is restored
    expect(made(move([1], 2)).order).toEqual([2, 1, 3]);
    expect(made(setRemoved(1, true)).removed.toSorted()).toEqual([1, 3]);
    expect(recipeOf(made(correct([1], { tone: "ink" })), 3).tone).toBe("ink");
    expect(recipeOf(made(correct([1], { tone: "ink" })), 1).tone).toBe("clean");
  });
});

describe("advice", () => {
  const advice = (code: "glare" | "seen_before", other: number | null = null) => ({ code, seen: "", do: "", where: null, other });
  const page = { id: 2, advice: [advice("glare"), advice("seen_before", 1)] } as Schemas["PageOut"];

  test("that was waved away is not told, and can come back", () => {
    const waved = setDismissed(2, "glare", true)(START);
    expect(adviceOf(page, waved).map((one) => one.code)).toEqual(["seen_before"]);
    expect(fingerprint(setDismissed(2, "glare", false)(waved))).toBe(fingerprint(START));
  });

  test("about a page that was removed holds no longer", () => {
    expect(adviceOf(page, { ...START, removed: [1] }).map((one) => one.code)).toEqual(["glare"]);
  });
});

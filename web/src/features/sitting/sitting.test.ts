import { describe, expect, test } from "vitest";
import { isRunning, needWords, standing } from "./lineWords";
import { inOrder } from "./order";
import { scaleOf } from "./scale";
import type { Line, Sitting } from "./useSitting";

const ZONE = "America/Halifax"; // UTC−4 in November
const NOON = Date.parse("2026-11-26T16:00:00Z");
const at = (minutes: number) => new Date(NOON + minutes * 60_000).toISOString();

function line(name: string, more: Partial<Line> = {}): Line {
  return {
    person_id: 1, name, number: "", section: "", extra_time: "", folio_id: 7, on_roster: true, begun: at(-100),
    writing_ends: at(-5), closes: at(10), latest_full_begin: null, phase: "handover", arrived: [], promised: 0, answers: 0,
    own_due: null, own_extra_time: "", own_reason: "", unheard: 0, edition: null, handed_in_at: null, needs: [], ...more,
  };
}
const names = (lines: Line[]) => lines.map((one) => one.name.split(" ")[0]);

describe("the order of the lines", () => {
  const lines = [
    line("Mirela Dunmore", { edition: 1 }),
    line("Aldis Anscombe", { folio_id: null, begun: null }),
    line("Tobin Ashgrove", { closes: at(12) }),
    line("Petra Lindholm", { closes: at(11) }),
    line("Joss Penhale", { phase: "closed", closes: at(-20) }),
    line("Wren Halloran", { closes: at(14), needs: ["promised"] }),
  ];

  test("is who needs somebody, then what closes first, then who has not begun, has handed in, is closed", () => {
    expect(names(inOrder(lines, "closes"))).toEqual(["Wren", "Petra", "Tobin", "Aldis", "Mirela", "Joss"]);
  });

  test("by name goes by the last one", () => {
    expect(names(inOrder(lines, "name"))).toEqual(["Aldis", "Tobin", "Mirela", "Wren", "Petra", "Joss"]);
  });

  test("can be narrowed to who needs somebody, and changes nothing in place", () => {
    const before = [...lines];
    expect(names(inOrder(lines, "needs"))).toEqual(["Wren"]);
    expect(lines).toEqual(before);
  });
});

describe("the scale", () => {
  const sitting = (lines: Line[], more: Partial<Sitting> = {}) =>
    ({ lines, opens: at(-300), due: at(300), timed: true, assignment: { time_zone: ZONE }, ...more }) as unknown as Sitting;

  test("goes from the first beginning to the last close, with few round marks", () => {
    const scale = scaleOf(sitting([line("A B"), line("C D", { begun: at(-60), closes: at(50) })]));
    expect([scale.start, scale.end]).toEqual([NOON - 100 * 60_000, NOON + 50 * 60_000]);
    expect(scale.at(scale.start)).toBe(0);
    expect(scale.at(scale.end)).toBe(100);
    expect(scale.marks.map((mark) => new Date(mark).toISOString().slice(11, 16))).toEqual(["14:30", "15:00", "15:30", "16:00", "16:30"]);
    expect(scale.inDays).toBe(false);
  });

  test("of work over days has its marks at the midnights of the course", () => {
    const scale = scaleOf(sitting([line("A B", { begun: at(0), closes: at(5 * 1440) })]));
    expect(scale.inDays).toBe(true);
    expect(scale.marks.map((mark) => new Date(mark).toISOString().slice(11, 16))).toEqual(Array(5).fill("04:00"));
  });

  test("before anybody has begun is the time it is open", () => {
    const scale = scaleOf(sitting([line("A B", { folio_id: null })]));
    expect([scale.start, scale.end]).toEqual([NOON - 300 * 60_000, NOON + 300 * 60_000]);
  });
});

describe("the words of a line", () => {
  test("say what is needed, in red, and beside it only what is safe", () => {
    const dacre = line("Dacre Whitlow", { needs: ["no_page"] });
    expect(needWords(dacre, NOON, ZONE)).toEqual(["no page yet, 10 min left"]);
    expect(standing(dacre, NOON, ZONE)).toBe("");
    const wren = line("Wren Halloran", { needs: ["promised", "failed"], promised: 3, arrived: [at(-2)] });
    expect(needWords(wren, NOON, ZONE)).toEqual(["3 pages promised, not here", "a page cannot be opened"]);
    expect(standing(wren, NOON, ZONE)).toBe("1 page safe");
    const late = line("Una Yarrow", { needs: ["time_runs"], folio_id: null, latest_full_begin: at(-30) });
    expect(needWords(late, NOON, ZONE)).toEqual(["not begun; full time until 11:30 only"]);
  });

  test("say how it stands with who needs nothing", () => {
    expect(standing(line("A B", { phase: "writing", writing_ends: at(20) }), NOON, ZONE)).toBe("writing · pen down 12:20");
    expect(standing(line("A B", { arrived: [at(-1), at(-2)], promised: 1 }), NOON, ZONE)).toBe("2 pages safe, 1 promised · closes in 10 min");
    expect(standing(line("A B", { edition: 2, arrived: [at(-1)], phase: "closed" }), NOON, ZONE)).toBe("handed in, edition 2, 1 page safe");
    expect(standing(line("A B", { folio_id: null, phase: "ready" }), NOON, ZONE)).toBe("not begun");
    expect(standing(line("A B", { folio_id: null, phase: "closed" }), NOON, ZONE)).toBe("did not begin");
    expect(standing(line("A B", { phase: "closed" }), NOON, ZONE)).toBe("closed, nothing came");
  });

  test("time can be given to what runs and to nothing else", () => {
    expect(isRunning(line("A B"))).toBe(true);
    expect(isRunning(line("A B", { phase: "closed" }))).toBe(false);
    expect(isRunning(line("A B", { folio_id: null, phase: "writing" }))).toBe(false);
  });
});

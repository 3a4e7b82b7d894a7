import "fake-indexeddb/auto";
import { beforeEach, describe, expect, test, vi } from "vitest";
import { inTime } from "../inTime";
import { unsavedNow } from "../unsaved";
import { fingerprint } from "./fingerprint";
import { BrowserKeeper, type Kept } from "./KeptFiles";
import type { Pledged } from "./pledge";
import type { Outcome } from "./outcome";
import { onTheWay, UploadQueue } from "./UploadQueue";

const LIMITS = { file_bytes: 100, pages: 10, kinds: "any" as const };
const ILSE = "ilse@kestrelpoint.example";
const keeper = new BrowserKeeper();
const AT = "2026-11-24T15:59:41Z";

type Answer = Exclude<Outcome, { page_id: number }> | "safe" | "here already";

async function acknowledged(kept: Kept, page_id: number, already: boolean): Promise<Outcome> {
  const { sha256, file } = kept;
  return { page_id, already, original_id: page_id, sha256, size: file.size, arrived: AT, promised: null };
}

/** A queue whose line answers what it is told to, in turn; `sent` is what went over it. */
function queue(...answers: Answer[]) {
  const sent: string[] = [];
  const mayReach = vi.fn(() => Promise.resolve(true));
  const pledge = vi.fn<(folio: number, waiting: readonly Kept[], sides: number | null) => Promise<Pledged>>((_, waiting) =>
    Promise.resolve({
      over: [],
      promised: waiting.map(({ sha256, file }) => ({ sha256, size: file.size, file_name: file.name, promised: AT })),
    }),
  );
  const send = async (kept: Kept): Promise<Outcome> => {
    sent.push(kept.file.name);
    const answer = answers.shift() ?? "safe";
    if (answer === "safe" || answer === "here already") return acknowledged(kept, sent.length, answer !== "safe");
    return answer;
  };
  const pause = () => new Promise<void>((done) => setTimeout(done));
  return { queue: new UploadQueue(1, ILSE, keeper, { send, pledge, mayReach, pause }), sent, mayReach, pledge };
}

function file(name: string, bytes = 1, lastModified = 0): File {
  return new File([new Uint8Array(bytes).fill(name.length)], name, { lastModified });
}

const states = (of: UploadQueue) => of.uploads().map((one) => `${one.file.name}: ${one.state}`);
const allSafe = (of: UploadQueue) => inTime(() => expect(onTheWay(of.uploads())).toEqual([]));

beforeEach(async () => {
  for (const kept of await keeper.of(ILSE)) await keeper.remove(kept.key);
});

describe("files on their way", () => {
  test("go in the natural order of their names, which the server is told", async () => {
    const { queue: one, sent } = queue();
    await one.add([file("page10.jpg"), file("page2.jpg"), file("Page1.jpg")], LIMITS);
    await allSafe(one);
    expect(sent).toEqual(["Page1.jpg", "page2.jpg", "page10.jpg"]);
  });

  test("are kept in the browser until the server has acknowledged their hash", async () => {
    let release: (outcome: Outcome) => void = () => {};
    const line = {
      send: () => new Promise<Outcome>((done) => (release = done)),
      pledge: () => Promise.resolve("later" as const),
      mayReach: () => Promise.resolve(true),
      pause: () => Promise.resolve(),
    };
    const one = new UploadQueue(1, ILSE, keeper, line);
    await one.add([file("a.jpg")], LIMITS);
    await inTime(() => expect(states(one)).toEqual(["a.jpg: on its way"]));
    const [kept] = await keeper.of(ILSE);
    expect(kept?.sha256).toBe(await fingerprint(file("a.jpg")));
    if (kept) release(await acknowledged(kept, 7, false));
    await allSafe(one);
    expect(await keeper.of(ILSE)).toEqual([]);
  });

  test("an acknowledgement of other bytes makes nothing safe", async () => {
    const { queue: one, sent } = queue();
    const line = Reflect.get(one, "line");
    const honest = line.send;
    let first = true;
    line.send = async (kept: Kept) => {
      const told = await honest(kept);
      if (first) told.sha256 = "other";
      first = false;
      return told;
    };
    await one.add([file("a.jpg")], LIMITS);
    await allSafe(one);
    expect(sent).toEqual(["a.jpg", "a.jpg"]);
  });

  test("wait for a lost network and lose nothing", async () => {
    const { queue: one, sent } = queue("unreachable", "unreachable");
    await one.add([file("a.jpg"), file("b.jpg")], LIMITS);
    await allSafe(one);
    expect(sent).toEqual(["a.jpg", "a.jpg", "a.jpg", "b.jpg"]);
  });

  test("wait while nobody is signed in, without sending their bytes again and again", async () => {
    const { queue: one, sent, mayReach } = queue("signed out");
    mayReach.mockResolvedValueOnce(false).mockResolvedValueOnce(false);
    const seen = new Set<string>();
    one.subscribe(() => one.uploads().forEach((upload) => seen.add(upload.waitsFor)));
    await one.add([file("a.jpg")], LIMITS);
    await allSafe(one);
    expect(sent).toEqual(["a.jpg", "a.jpg"]);
    expect(seen).toContain("your sign-in");
    expect(mayReach).toHaveBeenCalledTimes(3);
  });

  test("a refused one says why, is kept until it is dismissed, and the rest go on", async () => {
    const { queue: one } = queue({ message: "This file is empty." });
    await one.add([file("a.jpg"), file("b.jpg")], LIMITS);
    await inTime(() => expect(states(one)).toEqual(["a.jpg: refused", "b.jpg: safe"]));
    expect(one.uploads()[0]?.message).toBe("This file is empty.");
    expect((await keeper.of(ILSE)).map((kept) => kept.refusal)).toEqual(["This file is empty."]);
    one.dismiss(one.uploads()[0]?.key ?? "");
    expect(states(one)).toEqual(["b.jpg: safe"]);
    await inTime(async () => expect(await keeper.of(ILSE)).toEqual([]));
  });

  test("one that is too large is refused before it is sent", async () => {
    const { queue: one, sent } = queue();
    await one.add([file("huge.jpg", 101)], LIMITS);
    expect(states(one)).toEqual(["huge.jpg: refused"]);
    expect(sent).toEqual([]);
  });

  test("keep the page from being left until they are safe", async () => {
    const { queue: one } = queue();
    const added = one.add([file("a.jpg")], LIMITS);
    expect(unsavedNow()).toEqual(["1 file"]);
    await added;
    await inTime(() => expect(unsavedNow()).toEqual([]));
  });

  test("where the browser keeps nothing they are sent all the same, and said to be open to loss", async () => {
    const refusing = { put: () => Promise.reject(new Error("no room")), remove: () => Promise.resolve(), of: () => Promise.resolve([]) };
    const { queue: working } = queue();
    const one = new UploadQueue(1, ILSE, refusing, Reflect.get(working, "line"));
    const seen = new Set<boolean>();
    one.subscribe(() => one.uploads().forEach((upload) => seen.add(upload.kept)));
    await one.add([file("a.jpg")], LIMITS);
    await allSafe(one);
    expect(seen).toEqual(new Set([false]));
  });

  test("what an earlier life of the browser kept goes on", async () => {
    const before = new UploadQueue(1, ILSE, keeper, { ...Reflect.get(queue().queue, "line"), send: () => new Promise(() => {}) });
    await before.add([file("a.jpg"), file("b.jpg")], LIMITS);
    const { queue: after, sent } = queue();
    after.takeUp(await keeper.of(ILSE));
    await allSafe(after);
    expect(sent).toEqual(["a.jpg", "b.jpg"]);
    expect(await keeper.of(ILSE)).toEqual([]);
  });
});

describe("pledges", () => {
  const near = (minutes: number, allowed = 10) => {
    const closes = Date.now() + minutes * 60_000;
    return { closes, pledgesEnd: closes + allowed * 60_000 };
  };

  test("are made for all that waits when the close is near", async () => {
    const { queue: one, pledge } = queue("unreachable", "unreachable", "unreachable");
    one.tellLimits(near(4));
    await one.add([file("a.jpg"), file("bb.jpg")], LIMITS);
    await inTime(() => expect(one.uploads().map((upload) => upload.promised)).toEqual([AT, AT]));
    expect(pledge.mock.calls[0]?.[0]).toBe(1);
    await allSafe(one);
  });

  test("wait for the number of sides where more files wait than that, and are asked for again when it is said", async () => {
    const { queue: one, pledge } = queue("unreachable", "unreachable", "unreachable", "unreachable", "unreachable");
    const answerOf = pledge.getMockImplementation();
    pledge.mockImplementation(async (folio, waiting, sides) => {
      if (sides !== null) return (await answerOf?.(folio, waiting, sides)) ?? "later";
      return { promised: [], over: waiting.map((kept) => kept.sha256) };
    });
    one.tellLimits(near(4));
    await one.add([file("a.jpg")], LIMITS);
    await inTime(() => expect(one.uploads()[0]?.overSides).toBe(true));
    one.tellLimits(near(4), 1);
    await inTime(() => expect(one.uploads()[0]?.promised).toBe(AT));
    expect(one.uploads()[0]?.overSides).toBe(false);
  });

  test("are not made while there is time and the line is good, nor where none are taken, nor after the close", async () => {
    for (const limits of [near(90), near(4, 0), near(-1)]) {
      const { queue: one, pledge } = queue();
      one.tellLimits(limits);
      await one.add([file(`${limits.closes}.jpg`)], LIMITS);
      await allSafe(one);
      expect(pledge).not.toHaveBeenCalled();
    }
  });

  test("are made early on a weak line", async () => {
    const { queue: one, pledge } = queue("unreachable", "unreachable");
    one.tellLimits(near(90));
    await one.add([file("a.jpg")], LIMITS);
    await inTime(() => expect(pledge).toHaveBeenCalled());
    await allSafe(one);
  });

  test("are tried again until the server has them", async () => {
    const { queue: one, pledge } = queue(...Array<Answer>(9).fill("unreachable"));
    pledge.mockResolvedValueOnce("later").mockResolvedValueOnce("later");
    one.tellLimits(near(4));
    await one.add([file("a.jpg")], LIMITS);
    await inTime(() => expect(one.uploads()[0]?.promised).toBe(AT));
    expect(pledge.mock.calls.length).toBeGreaterThanOrEqual(3);
    await allSafe(one);
  });
});

import { describe, expect, test, vi } from "vitest";
import { inTime } from "../../shared/inTime";
import { Problem } from "../../shared/api/problem";
import { AnswerStore, NOT_ANSWERED } from "./AnswerStore";
import type { Unsent } from "./answerMemory";
import { type Content, contentWords, givenOf, NO_CONTENT } from "./content";
import type { SavedAnswer, Sent } from "./sendAnswer";

const Q = "7";

function saved(version: number, written: string, more: Partial<SavedAnswer> = {}): SavedAnswer {
  const content = { ...NO_CONTENT, written };
  return { question: Q, version, content, given: ["written"], saved_at: "2026-11-28T09:00:00Z", set_aside: [], ...more };
}

/** A server that another device may write to, and a line that may fail in either direction. */
function desk(kept: Record<string, Unsent> = {}) {
  const server = { now: null as SavedAnswer | null, aside: [] as string[], sent: [] as string[] };
  const line = { up: true, answers: true, ms: 0 };
  const memory = { kept };
  const send = async (_: number, __: string, version: number, content: Content): Promise<Sent> => {
    await (line.ms > 0 ? new Promise((done) => setTimeout(done, line.ms)) : Promise.resolve());
    server.sent.push(content.written);
    if (!line.up) return "unreachable";
    const outcome = take(version, content.written);
    return line.answers ? outcome : "unreachable";
  };
  const take = (version: number, written: string): Sent => {
    if (written.length > 40) return new Problem(422, "bad_answer", "Shorten it.");
    if (server.now?.content.written === written) return { answer: server.now, stale: false };
    if (version !== (server.now?.version ?? 0)) {
      server.aside.push(written);
      return { answer: server.now as SavedAnswer, stale: true };
    }
    server.now = saved(version + 1, written);
    return { answer: server.now, stale: false };
  };
  const open = () =>
    new AnswerStore(1, server.now ? [server.now] : [], { send, retryMs: 0 }, {
      read: () => memory.kept,
      keep: (_, unsent) => {
        memory.kept = JSON.parse(JSON.stringify(unsent)) as Record<string, Unsent>;
      },
    });
  return { server, line, memory, take, open };
}

const shown = (store: AnswerStore) => store.shown()[Q] ?? NOT_ANSWERED;
const type = (store: AnswerStore, written: string) => store.change(Q, { written });

describe("typing", () => {
  test("all that is typed is kept at once and sent a moment later, the newest of it", async () => {
    const { server, memory, open } = desk();
    const store = open();
    type(store, "s");
    type(store, "so");
    expect(memory.kept[Q]?.content.written).toBe("so");
    expect(server.sent).toEqual([]);
    await store.whenSaved();
    expect(server.sent).toEqual(["so"]);
    expect(shown(store)).toMatchObject({ saving: "saved", savedAt: "2026-11-28T09:00:00Z" });
    expect(memory.kept).toEqual({});
  });

  test("typed on without a pause, it is sent now and then and not at each letter", async () => {
    vi.useFakeTimers();
    const { server, line, open } = desk();
    line.ms = 150;
    const store = open();
    for (let letter = 1; letter <= 100; letter += 1) {
      type(store, String(letter));
      await vi.advanceTimersByTimeAsync(100);
    }
    expect(server.sent.length).toBeGreaterThan(1);
    expect(server.sent.length).toBeLessThan(5);
    await vi.advanceTimersByTimeAsync(5000);
    expect(server.now?.content.written).toBe("100");
    vi.useRealTimers();
  });

  test("what was typed before a reload goes on", async () => {
    const { server, memory, open } = desk();
    type(open(), "before");
    const after = open();
    expect(shown(after).content.written).toBe("before");
    await after.whenSaved();
    expect(server.now?.content.written).toBe("before");
    expect(memory.kept).toEqual({});
  });

  test("without a network it waits, says so, and is sent when it is back", async () => {
    const { server, line, open } = desk();
    const store = open();
    line.up = false;
    type(store, "kept");
    const done = store.whenSaved();
    await inTime(() => expect(shown(store).saving).toBe("waiting"));
    line.up = true;
    await done;
    expect(server.now?.content.written).toBe("kept");
  });

  test("an acknowledgement that was lost makes no quarrel with oneself", async () => {
    const { server, line, open } = desk();
    const store = open();
    line.answers = false;
    type(store, "one");
    const done = store.whenSaved();
    await inTime(() => expect(shown(store).saving).toBe("waiting"));
    type(store, "one two");
    line.answers = true;
    await done;
    expect(server.aside).toEqual([]);
    expect(server.now).toMatchObject({ version: 2, content: { written: "one two" } });
  });

  test("nor does one that was lost by a reload in the middle", async () => {
    const { server, line, open } = desk();
    const store = open();
    line.answers = false;
    type(store, "one");
    void store.whenSaved();
    await inTime(() => expect(server.now?.version).toBe(1));
    type(store, "one two");
    line.answers = true;
    const after = open();
    await after.whenSaved();
    expect(server.aside).toEqual([]);
    expect(server.now?.content.written).toBe("one two");
  });
});

describe("two devices", () => {
  test("what was typed on an older state lies beside, and the newer one is shown", async () => {
    const { server, take, open } = desk();
    const store = open();
    take(0, "from the phone");
    type(store, "from the computer");
    await store.whenSaved();
    expect(server.aside).toEqual(["from the computer"]);
    expect(shown(store).content.written).toBe("from the phone");
  });

  test("typed on while that is found out, all of it lies beside", async () => {
    const { server, take, open } = desk();
    const store = open();
    take(0, "from the phone");
    type(store, "from");
    const done = store.whenSaved();
    type(store, "from the computer");
    await done;
    expect(server.aside.at(-1)).toBe("from the computer");
    expect(server.now?.content.written).toBe("from the phone");
  });

  test("news of an older state change nothing, of a newer one what is shown", () => {
    const { open } = desk();
    const store = open();
    store.hear([saved(3, "three")]);
    store.hear([saved(2, "two")]);
    expect(shown(store).content.written).toBe("three");
  });
});

test("what the server refuses stays on this device with its word, and does not hold up the others", async () => {
  const { server, open } = desk();
  const store = open();
  type(store, "x".repeat(41));
  store.change("8", { short: "3" });
  await store.whenSaved();
  expect(shown(store)).toMatchObject({ saving: "refused", refusal: "Shorten it." });
  expect(server.sent).toHaveLength(2);
  type(store, "shorter");
  await store.whenSaved();
  expect(shown(store)).toMatchObject({ saving: "saved", refusal: "" });
});

describe("what is in an answer", () => {
  const choices = ["a", "b", "c"].map((id) => ({ id, text: id }));
  const question = { id: Q, kinds: ["chosen", "short", "pages"], choices, unit: "m/s" } as unknown as Parameters<typeof contentWords>[1];

  test("only what is asked for and holds something is given", () => {
    expect(givenOf({ chosen: ["a"], short: " ", written: "x" }, question)).toEqual(["chosen"]);
  });

  test("choices are named by letters as they are shown, and what has left the list is not", () => {
    expect(contentWords({ chosen: ["c", "a", "gone"], short: "3.2 m/s", written: "" }, question)).toBe("A, C · 3.2 m/s");
  });
});

import { describe, expect, test, vi } from "vitest";
import { unsavedNow } from "../../shared/unsaved";
import type { Outcome } from "./sendFile";
import { onTheWay, UploadQueue } from "./UploadQueue";

const LIMITS = { file_bytes: 100, pages: 10 };

function safe(page_id: number, already = false): Outcome {
  return { page_id, already, original_id: page_id, sha256: "", size: 1, arrived: "2026-11-24T15:00:00Z" };
}

/** A queue whose line answers what it is told to, in turn; `sent` is what went over it. */
function queue(...answers: Outcome[]) {
  const sent: string[] = [];
  const signedIn = vi.fn(() => Promise.resolve(true));
  const send = (_: number, file: File) => {
    sent.push(file.name);
    return Promise.resolve(answers.shift() ?? safe(99));
  };
  return { queue: new UploadQueue(1, { send, mayReach: signedIn, retryMs: 0 }), sent, signedIn };
}

function file(name: string, bytes = 1): File {
  return new File([new Uint8Array(bytes)], name);
}

function states(of: UploadQueue) {
  return of.uploads().map((one) => `${one.file.name}: ${one.state}`);
}

describe("files on their way", () => {
  test("go one after another in the natural order of their names", async () => {
    const { queue: one, sent } = queue(safe(1), safe(2), safe(3));
    one.add([file("page10.jpg"), file("page2.jpg"), file("Page1.jpg")], LIMITS);
    await vi.waitFor(() => expect(onTheWay(one.uploads())).toEqual([]));
    expect(sent).toEqual(["Page1.jpg", "page2.jpg", "page10.jpg"]);
    expect(one.uploads().map((upload) => upload.pageId)).toEqual([1, 2, 3]);
  });

  test("wait for a lost network, in their order, and lose nothing", async () => {
    const { queue: one, sent } = queue("unreachable", "unreachable", safe(1), safe(2));
    one.add([file("a.jpg"), file("b.jpg")], LIMITS);
    await vi.waitFor(() => expect(onTheWay(one.uploads())).toEqual([]));
    expect(sent).toEqual(["a.jpg", "a.jpg", "a.jpg", "b.jpg"]);
  });

  test("wait while nobody is signed in, without sending their bytes again and again", async () => {
    const { queue: one, sent, signedIn } = queue("signed out", safe(1));
    signedIn.mockResolvedValueOnce(false).mockResolvedValueOnce(false);
    const seen = new Set<string>();
    one.subscribe(() => seen.add(states(one).join()));
    one.add([file("a.jpg")], LIMITS);
    await vi.waitFor(() => expect(states(one)).toEqual(["a.jpg: safe"]));
    expect(sent).toEqual(["a.jpg", "a.jpg"]);
    expect(seen).toContain("a.jpg: waiting until you sign in");
    expect(signedIn).toHaveBeenCalledTimes(3);
  });

  test("a refused one says why and the rest go on", async () => {
    const { queue: one } = queue({ message: "This file is empty." }, safe(2));
    one.add([file("a.jpg"), file("b.jpg")], LIMITS);
    await vi.waitFor(() => expect(states(one)).toEqual(["a.jpg: refused", "b.jpg: safe"]));
    expect(one.uploads()[0]?.message).toBe("This file is empty.");
    one.dismiss(one.uploads()[0]?.key ?? 0);
    expect(states(one)).toEqual(["b.jpg: safe"]);
  });

  test("one that is too large is refused before it is sent", () => {
    const { queue: one, sent } = queue();
    one.add([file("huge.jpg", 101)], LIMITS);
    expect(states(one)).toEqual(["huge.jpg: refused"]);
    expect(sent).toEqual([]);
  });

  test("keep the page from being left until they are safe", async () => {
    const { queue: one } = queue(safe(1));
    one.add([file("a.jpg")], LIMITS);
    expect(unsavedNow()).toEqual(["1 file"]);
    await vi.waitFor(() => expect(unsavedNow()).toEqual([]));
  });
});

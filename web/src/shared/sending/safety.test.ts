import { describe, expect, it } from "vitest";
import type { Upload } from "./UploadQueue";
import { safety } from "./useUploads";

const page = (id: number, news = {}) => ({ id, state: "ready" as const, preview: "a", ...news });
const file = (state: Upload["state"], pageId: number | null = null) => ({ state, pageId, message: "" }) as Upload;

describe("what is said of the safety of pages", () => {
  it("says so while there is none, and when all are here", () => {
    expect(safety([], [], [])).toBe("no pages yet");
    expect(safety([page(1)], [1], [])).toBe("1 page safe");
    expect(safety([page(1), page(2)], [1, 2], [])).toBe("all 2 pages safe");
  });
  it("counts what is on this device and on the way before anything else", () => {
    expect(safety([page(1)], [1], [file("on this device"), file("on this device")])).toBe("2 files still on this device");
    expect(safety([page(1)], [1], [file("on this device"), file("on its way")])).toBe("2 files on the way");
  });
  it("does not say that there are no pages when some are safe and not on the board yet", () =>
    expect(safety([], [], [file("safe", 7), file("safe", 8)])).toBe("2 pages safe, 2 still being opened"));
  it("promises nothing of a file nobody has opened", () => {
    expect(safety([page(1), page(2, { state: "waiting", preview: "" })], [1, 2], [])).toBe("2 pages safe, 1 still being opened");
    expect(safety([page(1), page(2, { state: "waiting" })], [1, 2], [])).toBe("all 2 pages safe");
  });
  it("leaves out what was removed, and the file it came from", () =>
    expect(safety([page(1), page(2)], [1], [file("safe", 2)])).toBe("1 page safe"));
});

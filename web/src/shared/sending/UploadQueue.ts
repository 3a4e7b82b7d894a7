import type { Schemas } from "../api/client";
import { Observed } from "../Observed";
import { serverNow } from "../time";
import { keepAnEyeOn } from "../unsaved";
import { count, size } from "../words";
import { fingerprint } from "./fingerprint";
import type { Keeper, Kept } from "./KeptFiles";
import { LinkPace } from "./LinkPace";
import { pledge, type Pledged } from "./pledge";
import type { Outcome, Progress, Way } from "./outcome";
import { mayReach, sendFile } from "./sendFile";
import { thisTab } from "./tabs";

/** One chosen file. A safe one leaves the board's list once the board shows its page. */
export interface Upload {
  key: string;
  file: File;
  state: "on this device" | "on its way" | "safe" | "refused";
  /** Why it waits on this device, where it does not only wait for its turn. */
  waitsFor: "" | "the network" | "the server" | "your sign-in";
  share: number;
  message: string;
  pageId: number | null;
  /** The page this picture takes the place of. */
  insteadOf: number | null;
  /** When the server noted its pledge. */
  promised: string | null;
  /** It is not promised, since more files wait than sides were said to be written. */
  overSides: boolean;
  /** Whether it is kept over a reload of the page. */
  kept: boolean;
}

/** The moments up to which pages and promised pages are taken. Equal where no pledges are. */
export interface Limits {
  closes: number;
  pledgesEnd: number;
}

export interface Line {
  send: (kept: Kept, way: Way, progress: Progress) => Promise<Outcome>;
  pledge: (folioId: number, waiting: readonly Kept[], sides: number | null) => Promise<Pledged>;
  mayReach: (folioId: number) => Promise<boolean>;
  pause: (ms: number) => Promise<void>;
}

const PLEDGE_WHEN_LEFT_MS = 15 * 60_000;
const MOST_GAP_SECONDS = 300; // longer between two pictures: not one sitting at the camera
const byName = new Intl.Collator("en", { numeric: true, sensitivity: "base" });

/**
 * The files of one folio until the server has acknowledged each one's hash: kept in this browser, sent as the line allows,
 * promised when the close is near or the line is weak. It goes on whichever screen is shown.
 */
export class UploadQueue extends Observed {
  private all: readonly Upload[] = [];
  private readonly kept = new Map<string, Kept>();
  private readonly pace = new LinkPace();
  private limits: Limits | null = null;
  private onWire = 0;
  private waitingOut: Promise<void> | null = null;
  private pledging = false;
  private readonly needNone = new Set<string>();
  /** Not promised, because more files wait than sides were said to be written. */
  private readonly over = new Set<string>();
  private sides: number | null = null;
  private readonly line: Line;
  /** Of pictures taken one after another: they are one batch, in the order they were taken. */
  private readonly series = { batch: crypto.randomUUID(), taken: 0, last: undefined as File | undefined };

  constructor(
    private readonly folioId: number,
    private readonly owner: string,
    private readonly keeper: Keeper,
    line: Partial<Line> = {},
  ) {
    super();
    this.line = { send: sendFile, pledge, mayReach, pause: untilOnlineOr, ...line };
  }

  readonly uploads = () => this.all;

  /** What the board knows of the sitting's end; it decides when pledges are made. */
  tellLimits(limits: Limits, sides: number | null = null) {
    this.limits = limits;
    if (sides !== this.sides) {
      this.sides = sides;
      for (const key of this.over) this.show(key, { overSides: false });
      this.over.clear();
    }
    void this.promise();
  }

  async add(files: readonly File[], most: Schemas["LimitsOut"], insteadOf: number | null = null) {
    const sorted = [...files].sort((a, b) => byName.compare(a.name, b.name));
    const batch = crypto.randomUUID();
    await this.take(sorted.map((file, number) => this.chosen(file, number, sorted[number - 1], batch, insteadOf)), most);
  }

  /** One picture more of those that are taken one after another; it lies behind the one before, however the line is. */
  async addNext(file: File, most: Schemas["LimitsOut"], insteadOf: number | null = null) {
    const { batch, taken, last } = this.series;
    Object.assign(this.series, { taken: taken + 1, last: file });
    await this.take([this.chosen(file, taken, last, batch, insteadOf)], most);
  }

  private async take(chosen: Kept[], most: Schemas["LimitsOut"]) {
    this.set([...this.all, ...chosen.map((kept) => upload(kept, most.file_bytes))]);
    for (const kept of chosen.filter((one) => one.file.size <= most.file_bytes)) await this.keep(kept);
    this.work();
    void this.promise();
  }

  /** Files that an earlier life of this browser kept. They go on as if nothing had been. */
  takeUp(left: readonly Kept[]) {
    const fresh = left.filter((kept) => !this.kept.has(kept.key));
    for (const kept of fresh) this.kept.set(kept.key, { ...kept, tab: thisTab });
    const shown = fresh.map((kept): Upload => {
      const refused = kept.refusal ? ({ state: "refused", message: kept.refusal } as const) : {};
      return { ...upload(kept, Infinity), promised: kept.promised, kept: true, ...refused };
    });
    this.set([...this.all, ...shown]);
    this.work();
    void this.promise();
  }

  dismiss(key: string) {
    this.set(this.all.filter((one) => one.key !== key));
    void this.forget(key);
  }

  private chosen(file: File, number: number, before: File | undefined, batch: string, insteadOf: number | null): Kept {
    const gap = before ? (file.lastModified - before.lastModified) / 1000 : 0;
    return {
      key: crypto.randomUUID(),
      folioId: this.folioId,
      owner: this.owner,
      tab: thisTab,
      file,
      name: file.name,
      batch,
      number,
      insteadOf,
      chosenAt: Date.now(),
      gapSeconds: gap > 0 && gap < MOST_GAP_SECONDS ? gap : 0,
      sha256: "",
      uploadUrl: null,
      promised: null,
    };
  }

  private async keep(kept: Kept) {
    this.kept.set(kept.key, kept);
    try {
      await this.keeper.put(kept);
      this.show(kept.key, { kept: true });
    } catch {
      this.show(kept.key, { kept: false }); // it lives as long as this page is open, and is said to
    }
    try {
      await this.change(kept.key, { sha256: await fingerprint(kept.file) });
    } catch {
      this.kept.delete(kept.key);
      await this.keeper.remove(kept.key).catch(() => {});
      this.show(kept.key, { state: "refused", message: "This file cannot be read on this device. Choose it again." });
    }
  }

  private async change(key: string, news: Partial<Kept>) {
    const kept = this.kept.get(key);
    if (!kept) return;
    this.kept.set(key, { ...kept, ...news });
    await this.keeper.put({ ...kept, ...news }).catch(() => {});
  }

  private async forget(key: string) {
    this.kept.delete(key);
    await this.keeper.remove(key).catch(() => {});
  }

  /** Send as many as the line bears, those chosen first first. */
  private work() {
    while (!this.waitingOut && this.onWire < this.pace.sideBySide) {
      const next = this.all.find((one) => one.state === "on this device" && this.kept.get(one.key)?.sha256);
      const kept = next && this.kept.get(next.key);
      if (!kept) return;
      this.onWire += 1;
      this.show(kept.key, { state: "on its way", waitsFor: "", share: 0 });
      void this.send(kept).finally(() => {
        this.onWire -= 1;
        this.work();
      });
    }
  }

  private async send(kept: Kept) {
    const { key } = kept;
    const begun = performance.now();
    const seconds = kept.gapSeconds > 0 ? kept.gapSeconds + this.pace.secondsFor(kept.file.size) : null;
    const way = { pieceBytes: this.pace.pieceBytes, seconds };
    const outcome = await this.line.send(kept, way, {
      onShare: (share) => this.show(key, { share }),
      onUploadUrl: (uploadUrl) => void this.change(key, { uploadUrl }),
    });
    if (typeof outcome === "string") return this.waitOut(key, outcome);
    if ("page_id" in outcome && kept.sha256 !== outcome.sha256) return this.waitOut(key, "server trouble");
    if ("page_id" in outcome) {
      await this.forget(key);
      this.pace.delivered(kept.file.size, (performance.now() - begun) / 1000);
      const message = outcome.already ? "The same file is here already; no second page was made." : "";
      this.show(key, { state: "safe", share: 1, pageId: outcome.page_id, message });
    } else {
      await this.change(key, { refusal: outcome.message });
      this.show(key, { state: "refused", message: outcome.message });
    }
  }

  /** Everything waits together: what one file found out about the line holds for all. */
  private async waitOut(key: string, why: Extract<Outcome, string>) {
    const waitsFor = why === "signed out" ? "your sign-in" : why === "unreachable" ? "the network" : "the server";
    this.show(key, { state: "on this device", waitsFor });
    if (why !== "signed out") this.pace.failed();
    void this.promise();
    this.waitingOut ??= (async () => {
      do await this.line.pause(this.pace.waitMs(Math.random()));
      while (why === "signed out" && !(await this.line.mayReach(this.folioId)));
      this.waitingOut = null;
      this.work();
    })();
    await this.waitingOut;
  }

  /** Promise what waits, when the close is near or the line is weak; until the server has it or the close has passed. */
  private async promise() {
    if (this.pledging) return;
    this.pledging = true;
    for (let due = this.toPromise(); due.length > 0; due = this.toPromise()) {
      const answer = await this.line.pledge(this.folioId, due, this.sides);
      if (answer === "refused") break;
      if (answer !== "later") await this.note(due, answer);
      if (this.toPromise().length > 0) await this.line.pause(2000);
    }
    this.pledging = false;
  }

  private async note(due: readonly Kept[], answer: Schemas["PledgesOut"]) {
    for (const { key, sha256 } of due) {
      const promised = answer.promised.find((one) => one.sha256 === sha256)?.promised;
      if (answer.over.includes(sha256)) {
        this.over.add(key);
        this.show(key, { overSides: true });
      } else if (!promised) {
        this.needNone.add(key); // the server has its bytes already
      } else {
        await this.change(key, { promised });
        this.show(key, { promised });
      }
    }
  }

  private toPromise(): Kept[] {
    if (!this.limits || this.limits.pledgesEnd <= this.limits.closes) return [];
    const left = this.limits.closes - serverNow();
    const waiting = [...this.kept.values()].filter((kept) => kept.sha256 && !kept.promised && !kept.refusal && !this.needNone.has(kept.key) && !this.over.has(kept.key));
    const slow = this.pace.weak || this.pace.secondsFor(sum(waiting)) * 1000 > left / 2;
    return left > 0 && (left < PLEDGE_WHEN_LEFT_MS || slow) ? waiting : [];
  }

  private show(key: string, news: Partial<Upload>) {
    this.set(this.all.map((one) => (one.key === key ? { ...one, ...news } : one)));
  }

  private set(all: readonly Upload[]) {
    this.all = all;
    const coming = onTheWay(all).length;
    keepAnEyeOn(this, coming > 0 ? count(coming, "file") : "");
    this.tell();
  }
}

/** The files that are not on the server yet and still may get there. */
export function onTheWay(uploads: readonly Upload[]): Upload[] {
  return uploads.filter((one) => one.state !== "safe" && one.state !== "refused");
}

function upload(kept: Kept, most: number): Upload {
  const { file } = kept;
  const tooLarge = `This file has ${size(file.size)}; at most ${size(most)} are taken. Take the picture at a normal size, or split the PDF.`;
  const refused = file.size > most;
  return {
    key: kept.key,
    file,
    state: refused ? "refused" : "on this device",
    waitsFor: "",
    share: 0,
    message: refused ? tooLarge : "",
    pageId: null,
    insteadOf: kept.insteadOf,
    promised: null,
    overSides: false,
    kept: false,
  };
}

function sum(files: readonly Kept[]): number {
  return files.reduce((bytes, kept) => bytes + kept.file.size, 0);
}

/** Waits, but not longer than until the device says that it has a network again. */
function untilOnlineOr(ms: number): Promise<void> {
  return new Promise((done) => {
    const end = () => {
      clearTimeout(timer);
      window.removeEventListener("online", end);
      done();
    };
    const timer = setTimeout(end, ms);
    window.addEventListener("online", end);
  });
}

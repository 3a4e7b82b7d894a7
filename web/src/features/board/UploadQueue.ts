import type { Schemas } from "../../shared/api/client";
import { keepAnEyeOn } from "../../shared/unsaved";
import { count, size } from "../../shared/words";
import { Observed } from "./Observed";
import { mayReach, type Outcome, sendFile } from "./sendFile";

/** One chosen file on its way. A safe one leaves the board's list once the board shows its page. */
export interface Upload {
  key: number;
  file: File;
  state:
    | "on this device"
    | "on its way"
    | "waiting for the network"
    | "waiting for the server"
    | "waiting until you sign in"
    | "safe"
    | "refused";
  share: number;
  message: string;
  pageId: number | null;
  /** The page this picture takes the place of. */
  insteadOf: number | null;
}
interface Link {
  send: (
    folioId: number,
    file: File,
    onShare: (share: number) => void,
    insteadOf: number | null,
  ) => Promise<Outcome>;
  mayReach: (folioId: number) => Promise<boolean>;
  retryMs: number;
}

const byName = new Intl.Collator("en", { numeric: true, sensitivity: "base" });
let nextKey = 1;

/**
 * The files of one folio that are on their way. It goes on whichever screen is shown, also while nobody is signed in.
 *
 * One file after another, so that pages land in the order they were chosen; a lost network is waited for.
 */
export class UploadQueue extends Observed {
  private all: readonly Upload[] = [];
  private readonly waiting: Upload[] = [];
  private busy = false;

  constructor(
    private readonly folioId: number,
    private readonly link: Link = { send: sendFile, mayReach, retryMs: 2500 },
  ) {
    super();
  }

  readonly uploads = () => this.all;

  add(files: readonly File[], limits: Schemas["LimitsOut"], insteadOf: number | null = null) {
    const sorted = [...files].sort((a, b) => byName.compare(a.name, b.name));
    const fresh = sorted.map((file) => taken(file, limits.file_bytes, insteadOf));
    this.set([...this.all, ...fresh]);
    this.waiting.push(...fresh.filter((one) => one.state !== "refused"));
    void this.work();
  }

  dismiss(key: number) {
    this.set(this.all.filter((one) => one.key !== key));
  }

  private async work() {
    if (this.busy) return;
    this.busy = true;
    for (let next = this.waiting[0]; next; next = this.waiting[0]) {
      const { key, file, insteadOf } = next;
      this.show(key, { state: "on its way", share: 0 });
      const outcome = await this.link.send(this.folioId, file, (share) => this.show(key, { share }), insteadOf);
      if (typeof outcome === "string") {
        await this.wait(key, outcome);
        continue;
      }
      this.waiting.shift();
      if ("page_id" in outcome) {
        const message = outcome.already ? "The same file is here already; no second page was made." : "";
        this.show(key, { state: "safe", share: 1, pageId: outcome.page_id, message });
      } else {
        this.show(key, { state: "refused", message: outcome.message });
      }
    }
    this.busy = false;
  }

  private async wait(key: number, why: Extract<Outcome, string>) {
    if (why === "signed out") this.show(key, { state: "waiting until you sign in" });
    else this.show(key, { state: why === "unreachable" ? "waiting for the network" : "waiting for the server" });
    do {
      await new Promise((done) => setTimeout(done, this.link.retryMs));
    } while (why === "signed out" && !(await this.link.mayReach(this.folioId)));
  }

  private show(key: number, news: Partial<Upload>) {
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

function taken(file: File, most: number, insteadOf: number | null): Upload {
  const tooLarge = `This file has ${size(file.size)}; at most ${size(most)} are taken. Take the picture at a normal size, or split the PDF.`;
  const refused = file.size > most;
  return {
    key: nextKey++,
    file,
    state: refused ? "refused" : "on this device",
    share: 0,
    message: refused ? tooLarge : "",
    pageId: null,
    insteadOf,
  };
}

const queues = new Map<number, UploadQueue>();

export function uploadQueue(folioId: number): UploadQueue {
  const queue = queues.get(folioId) ?? new UploadQueue(folioId);
  queues.set(folioId, queue);
  return queue;
}

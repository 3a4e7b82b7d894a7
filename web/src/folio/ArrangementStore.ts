import { Problem } from "../shared/api/problem";
import { Observed } from "../shared/Observed";
import { serverNow } from "../shared/time";
import { keepAnEyeOn } from "../shared/unsaved";
import { type Arrangement, carriedTo, type Change, fingerprint, onlyPagesCame } from "./arrangement";
import { boardMemory, type Step } from "./boardMemory";
import { beforeRetake, retakenBetween, throughRetake } from "./retake";
import { type Saved, sendArrangement } from "./sendArrangement";
import { whatChanged } from "./whatChanged";

export type Saving = "saved" | "saving" | "waiting";
export interface Refusal {
  title: string;
  description: string;
  /** In words, what was not done because something else was changed meanwhile; it can be done again. */
  dropped: string[];
}
export interface Shown {
  arrangement: Arrangement;
  /** How what is saved differs from what was handed in last. */
  changed: Saved["changed"];
  saving: Saving;
  /** What was done, newest last, and what was taken back, next to be done again last. */
  past: readonly string[];
  future: readonly string[];
  /** When each of them was done, on the server's clock, in the same order. */
  times: { past: readonly (number | undefined)[]; future: readonly (number | undefined)[] };
  refusal: Refusal | null;
}
interface Pending {
  words: string;
  change: Change;
  /** The way back as it was before. */
  past: readonly Step[];
  /** Of the same name, only the newest is sent. */
  joins?: string;
}
const TYPING_MS = 600; // a word that is being typed is sent so often
const REFUSED = "Changed elsewhere";

/**
 * The arrangement of one folio as its student sees it: what the server has, with the changes on their way laid over it.
 *
 * Changes are sent one after another, each against the version it was made on, whichever screen is shown; those not yet
 * sent and all steps survive a reload. Where the server has a newer one, a change is made again on it if only pages have
 * come or one was taken again; otherwise the newer state is shown, with a word, and the change offered again. What was
 * changed elsewhere is a step of the way back, too.
 */
export class ArrangementStore extends Observed {
  private pending: readonly Pending[] = [];
  private past: readonly Step[] = [];
  private future: readonly Step[] = [];
  private dropped: readonly Pending[] = [];
  private saving: Saving = "saved";
  private refusal: Refusal | null = null;
  /** Heard while something was on its way. */
  private news: Saved | null = null;
  /** What was sent and not acknowledged: it may be there, and is sent again before anything newer. */
  private sending: Arrangement | null = null;
  private busy = false;
  private typing: ReturnType<typeof setTimeout> | undefined;
  private now: Shown;

  constructor(
    private readonly folioId: number,
    private saved: Saved,
    private readonly link = { send: sendArrangement, retryMs: 2000 },
    private readonly memory = boardMemory,
  ) {
    super();
    this.remember();
    this.now = this.look();
    this.changed();
    void this.flush();
  }

  readonly shown = () => this.now;

  /** News of the server. While something is on its way, they wait for its answer, which may be the older one. */
  hear(newer: Saved) {
    this.news = null;
    if (newer.version < this.saved.version) return;
    if (this.pending.length > 0) {
      this.news = newer;
      return;
    }
    if (newer.version === this.saved.version) return this.heardOfEdition(newer.changed);
    const { arrangement: before } = this.saved;
    if (!this.takenAgain(newer.arrangement) && !onlyPagesCame(before, newer.arrangement)) this.passed(this.past, before, newer.arrangement);
    this.saved = { version: newer.version, arrangement: newer.arrangement, changed: newer.changed };
    this.changed();
  }

  /** Whether all that happened is that a page was taken again: a step, and what is on its way is done to the new one. */
  private takenAgain(newer: Arrangement): boolean {
    const retake = retakenBetween(this.saved.arrangement, newer);
    if (!retake) return false;
    this.past = [...this.past, { words: "A page was taken again", before: beforeRetake(this.look().arrangement, retake), at: serverNow() }];
    this.pending = this.pending.map((one) => ({ ...one, change: throughRetake(one.change, retake) }));
    return true;
  }

  private heardOfEdition(changed: Saved["changed"]) {
    if (JSON.stringify(changed) === JSON.stringify(this.saved.changed)) return;
    this.saved = { ...this.saved, changed };
    this.changed();
  }

  /** `joins`: changes of one name that follow each other are one step, kept here at once and sent a little later. */
  change(wanted: Change, words: string, joins?: string) {
    const before = this.now.arrangement;
    if (fingerprint(wanted(before)) === fingerprint(before)) return;
    const last = this.past.at(-1);
    const goesOn = joins !== undefined && last?.joins === joins;
    const past = goesOn ? this.past.slice(0, -1) : this.past;
    this.past = [...past, goesOn ? last : { words, before, at: serverNow(), joins }];
    this.future = [];
    this.put({ words, change: wanted, past, joins });
  }

  undo() {
    this.step("past", "future");
  }

  redo() {
    this.step("future", "past");
  }

  /** Take back the newest `steps` things that were done. */
  undoTo(steps: number) {
    for (let left = steps; left > 0; left -= 1) this.undo();
  }

  /** When nothing is on its way any more. */
  whenSaved(): Promise<void> {
    if (this.pending.length === 0) return Promise.resolve();
    void this.flush();
    return new Promise((done) => {
      const end = this.subscribe(() => {
        if (this.pending.length > 0) return;
        end();
        done();
      });
    });
  }

  private step(from: "past" | "future", onto: "past" | "future") {
    const target = this[from].at(-1);
    if (!target) return;
    const { past } = this;
    this[from] = this[from].slice(0, -1);
    this[onto] = [...this[onto], { words: target.words, before: this.now.arrangement, at: target.at }];
    this.put({ words: target.words, change: (now) => carriedTo(target.before, now), past });
  }

  refusalSeen() {
    this.refusal = null;
    this.changed();
  }

  /** Do once more what gave way to a change made elsewhere. */
  again() {
    const { dropped } = this;
    this.dropped = [];
    dropped.forEach(({ change, words }) => this.change(change, words));
  }

  private put(change: Pending) {
    const waiting = this.pending.slice(this.busy ? 1 : 0); // the first may be under way
    const replaces = change.joins !== undefined && waiting.at(-1)?.joins === change.joins;
    this.pending = [...(replaces ? this.pending.slice(0, -1) : this.pending), change];
    if (change.joins === undefined) void this.flush();
    else this.typing ??= setTimeout(() => void this.flush(), TYPING_MS);
    this.saving = this.saving === "saved" ? "saving" : this.saving;
    this.changed();
  }

  private async flush() {
    clearTimeout(this.typing);
    this.typing = undefined;
    if (this.busy) return;
    this.busy = true;
    for (let next = this.pending[0]; next; next = this.pending[0]) {
      const wanted = next.change(this.saved.arrangement);
      this.saving = "saving";
      this.sending = wanted;
      this.changed();
      const outcome = await this.link.send(this.folioId, this.saved.version, wanted);
      if (outcome !== "unreachable") this.sending = null;
      if (outcome === "unreachable") {
        this.saving = "waiting";
        this.changed();
        await new Promise((done) => setTimeout(done, this.link.retryMs));
      } else if (outcome instanceof Problem) {
        this.refuse("That change could not be saved", outcome.message);
      } else if (outcome.stale && !onlyPagesCame(wanted, outcome.saved.arrangement)) {
        const before = this.saved.arrangement;
        const goesOn = this.takenAgain(outcome.saved.arrangement) || onlyPagesCame(before, outcome.saved.arrangement);
        this.saved = outcome.saved;
        if (goesOn) continue;
        this.refuse(REFUSED, outcome.message, this.pending);
        this.passed(this.past, before, outcome.saved.arrangement);
      } else {
        this.saved = outcome.saved; // also where it had come before, and the answer was lost
        this.pending = this.pending.slice(1);
      }
    }
    this.saving = "saved";
    this.busy = false;
    this.changed();
    if (this.news) this.hear(this.news);
  }

  private refuse(title: string, description: string, dropped: readonly Pending[] = []) {
    this.past = this.pending[0]?.past ?? [];
    this.future = [];
    this.pending = [];
    this.dropped = dropped;
    this.refusal = { title, description, dropped: dropped.map((one) => one.words) };
  }

  /** Something was changed elsewhere, after these steps. */
  private passed(past: readonly Step[], before: Arrangement, after: Arrangement) {
    const what = whatChanged(before, after);
    this.past = [...past, { words: `${REFUSED}${what && `: ${what}`}`, before, at: serverNow() }];
    this.future = [];
  }

  /** Go on where this browser was left, unless the board was changed elsewhere since. */
  private remember() {
    const kept = this.memory.read(this.folioId);
    if (!kept) return;
    if (kept.seen.version > this.saved.version) this.saved = kept.seen; // opened without network, from an older answer
    const { wanted, seen, sending } = kept;
    const server = this.saved.arrangement;
    const arrived = sending !== null && onlyPagesCame(sending, server);
    const alone = arrived || onlyPagesCame(seen.arrangement, server);
    const missing = wanted !== null && fingerprint(carriedTo(wanted, server)) !== fingerprint(server);
    if (missing) {
      const words = kept.past.at(-1)?.words ?? "The last change";
      const before = sending === null || arrived ? [] : [sending]; // it may be on its way still
      this.pending = [...before, wanted].map((lies) => ({ words, change: (now) => carriedTo(lies, now), past: kept.past.slice(0, -1) }));
    }
    if (alone || (wanted && !missing)) [this.past, this.future] = [kept.past, kept.future];
    else if (!missing) this.passed(kept.past, seen.arrangement, server);
    else {
      this.refuse(REFUSED, "The board was changed elsewhere while this change could not be saved.", this.pending.slice(-1));
      this.passed(this.past, seen.arrangement, server);
    }
  }

  private look(): Shown {
    return {
      arrangement: this.pending.reduce((so_far, { change }) => change(so_far), this.saved.arrangement),
      changed: this.saved.changed ?? null,
      saving: this.saving,
      past: this.past.map((step) => step.words),
      future: this.future.map((step) => step.words),
      times: { past: this.past.map((step) => step.at), future: this.future.map((step) => step.at) },
      refusal: this.refusal,
    };
  }

  private changed() {
    this.now = this.look();
    const waits = this.pending.length > 0;
    const { past, future, sending, saved: seen } = this;
    this.memory.keep(this.folioId, { seen, wanted: waits ? this.now.arrangement : null, sending, past, future });
    keepAnEyeOn(this, waits ? "the last change of order and places" : "");
    this.tell();
  }
}

const stores = new Map<number, ArrangementStore>();

export function arrangementStore(folioId: number, saved: Saved): ArrangementStore {
  const store = stores.get(folioId) ?? new ArrangementStore(folioId, saved);
  stores.set(folioId, store);
  return store;
}

/** When nothing of the board is on its way any more. */
export function savedBoard(folioId: number): Promise<void> {
  return stores.get(folioId)?.whenSaved() ?? Promise.resolve();
}

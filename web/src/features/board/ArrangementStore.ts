import { Problem } from "../../shared/api/problem";
import { keepAnEyeOn } from "../../shared/unsaved";
import { type Arrangement, beforeRetake, carriedTo, type Change, fingerprint, onlyPagesCame } from "./arrangement";
import { Observed } from "../../shared/Observed";
import { type Saved, sendArrangement } from "./sendArrangement";

export type Saving = "saved" | "saving" | "waiting";
export interface Refusal {
  title: string;
  description: string;
}
export interface Shown {
  arrangement: Arrangement;
  saving: Saving;
  mayUndo: boolean;
  mayRedo: boolean;
  refusal: Refusal | null;
}

/**
 * The arrangement of one folio as its student sees it: what the server has, with the changes on their way laid over it.
 *
 * Changes are sent one after another, each against the version it was made on, whichever screen is shown. Where the
 * server has a newer one, a change is made again on it if only pages have come; otherwise the newer state is shown
 * and the change dropped, with a word.
 */
export class ArrangementStore extends Observed {
  private pending: readonly Change[] = [];
  private past: readonly Arrangement[] = [];
  private future: readonly Arrangement[] = [];
  private saving: Saving = "saved";
  private refusal: Refusal | null = null;
  private busy = false;
  private now: Shown;

  constructor(
    private readonly folioId: number,
    private saved: Saved,
    private readonly link = { send: sendArrangement, retryMs: 2000 },
  ) {
    super();
    this.now = this.look();
  }

  readonly shown = () => this.now;

  /** News of the server. What is on its way is told by its own answer. */
  hear(newer: Saved) {
    if (newer.version <= this.saved.version || this.pending.length > 0) return;
    const retaken = beforeRetake(this.saved.arrangement, newer.arrangement);
    if (retaken) this.past = [...this.past, retaken];
    else if (!onlyPagesCame(this.saved.arrangement, newer.arrangement)) this.forget();
    this.saved = newer;
    this.changed();
  }

  change(wanted: Change) {
    const before = this.now.arrangement;
    if (fingerprint(wanted(before)) === fingerprint(before)) return;
    this.past = [...this.past, before];
    this.future = [];
    this.put(wanted);
  }

  undo() {
    this.step("past", "future");
  }

  redo() {
    this.step("future", "past");
  }

  private step(from: "past" | "future", onto: "past" | "future") {
    const target = this[from].at(-1);
    if (!target) return;
    this[from] = this[from].slice(0, -1);
    this[onto] = [...this[onto], this.now.arrangement];
    this.put((now) => carriedTo(target, now));
  }

  refusalSeen() {
    this.refusal = null;
    this.changed();
  }

  private put(change: Change) {
    this.pending = [...this.pending, change];
    this.changed();
    void this.flush();
  }

  private async flush() {
    if (this.busy) return;
    this.busy = true;
    for (let change = this.pending[0]; change; change = this.pending[0]) {
      const wanted = change(this.saved.arrangement);
      this.saving = "saving";
      this.changed();
      const outcome = await this.link.send(this.folioId, this.saved.version, wanted);
      if (outcome === "unreachable") {
        this.saving = "waiting";
        this.changed();
        await new Promise((done) => setTimeout(done, this.link.retryMs));
      } else if (outcome instanceof Problem) {
        this.refuse("That change could not be saved", outcome.message);
      } else if (outcome.stale && fingerprint(outcome.saved.arrangement) !== fingerprint(wanted)) {
        const mine = onlyPagesCame(this.saved.arrangement, outcome.saved.arrangement);
        this.saved = outcome.saved;
        if (!mine) this.refuse("Changed elsewhere", outcome.message);
      } else {
        this.saved = outcome.saved;
        this.pending = this.pending.slice(1);
      }
    }
    this.saving = "saved";
    this.busy = false;
    this.changed();
  }

  private refuse(title: string, description: string) {
    this.pending = [];
    this.refusal = { title, description };
    this.forget();
  }

  private forget() {
    this.past = [];
    this.future = [];
  }

  private look(): Shown {
    return {
      arrangement: this.pending.reduce((so_far, change) => change(so_far), this.saved.arrangement),
      saving: this.saving,
      mayUndo: this.past.length > 0,
      mayRedo: this.future.length > 0,
      refusal: this.refusal,
    };
  }

  private changed() {
    this.now = this.look();
    keepAnEyeOn(this, this.pending.length > 0 ? "the last change of order and places" : "");
    this.tell();
  }
}

const stores = new Map<number, ArrangementStore>();

export function arrangementStore(folioId: number, saved: Saved): ArrangementStore {
  const store = stores.get(folioId) ?? new ArrangementStore(folioId, saved);
  stores.set(folioId, store);
  return store;
}

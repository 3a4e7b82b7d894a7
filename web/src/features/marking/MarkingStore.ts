import { Problem } from "../../shared/api/problem";
import type { Schemas } from "../../shared/api/client";
import { Observed } from "../../shared/Observed";
import { keepAnEyeOn } from "../../shared/unsaved";
import type { InkPoint, InkShape, Tool } from "../../folio/marked/ink";
import { markingMemory } from "./markingMemory";
import { type Mark, type Row, sendMarking, type Wanted } from "./sendMarking";

export type Saving = "saved" | "saving" | "waiting" | "refused";
export interface Given {
  points: string | null;
  note: string;
  notAttempted: boolean;
}
export type ShownInk = InkShape & { key: string; isOwn: boolean; by: string };
/** An answer as it is shown: what the server has, with what is wanted laid over it. */
export interface ShownAnswer {
  row: Row;
  given: Given;
  saving: Saving;
  refusal: string;
  /** What somebody else gave meanwhile, over which nothing is written until one of the two is chosen. */
  theirs: Mark | null;
  /** By page. */
  ink: ReadonlyMap<number, readonly ShownInk[]>;
}

interface Step {
  undo: () => void;
  redo: () => void;
  at: string;
}

/** How an answer is called among all that are shown. */
export function nameOf(row: Pick<Row, "folio_id" | "question">): string {
  return `${row.folio_id} ${row.question}`;
}

/** The mark that this person works on: of their own round. */
export function ownMark(row: Row): Mark | undefined {
  return row.marks.find((one) => one.round === row.round);
}

/** Of the mark that this person works on, as it stands; none is 0. */
export function versionOf(row: Row): number {
  return ownMark(row)?.version ?? 0;
}

/**
 * The answers that are marked on one screen. Whatever is given or drawn is kept in this browser at once and sent in its
 * order; a lost network only makes it wait. Where somebody else marked the same answer meanwhile, both are shown and
 * nothing is written over.
 */
export class MarkingStore extends Observed {
  private rows = new Map<string, Row>();
  private wanted: Wanted[];
  private refusals = new Map<string, string>();
  private clashes = new Map<string, Mark>();
  /** What the cut of an answer had missed, and is shown now. */
  private more = new Map<string, Row["cuts"]>();
  /** When the server last took something of an answer. */
  private savedAt = new Map<string, number>();
  private looks = new Map<string, ShownAnswer>();
  private busy = false;
  private unreachable = false;
  private done: Step[] = [];
  private undone: Step[] = [];

  constructor(
    private readonly key: string,
    private readonly link = { send: sendMarking, retryMs: 2000 },
    private readonly memory = markingMemory,
  ) {
    super();
    this.wanted = memory.read(key);
    void this.flush();
  }

  /** News of the server, asked for at `began`: what was saved since is newer, and stays. */
  hear(rows: readonly Row[], began = performance.now()) {
    for (const row of rows) if ((this.savedAt.get(nameOf(row)) ?? -1) <= began) this.set(row);
    this.tell();
  }

  /** Further strips of an answer, from now on shown with it. */
  showMore(name: string, cuts: Row["cuts"]) {
    this.more.set(name, cuts);
    const row = this.rows.get(name);
    if (row) this.set(row);
    this.tell();
  }

  private set(row: Row) {
    const name = nameOf(row);
    const more = (this.more.get(name) ?? []).filter((cut) => !row.cuts.some((one) => one.page === cut.page && one.top === cut.top));
    this.rows.set(name, { ...row, cuts: [...row.cuts, ...more] });
    this.looks.delete(name);
  }

  readonly answer = (name: string): ShownAnswer | undefined => {
    const row = this.rows.get(name);
    if (!row) return undefined;
    let look = this.looks.get(name);
    if (!look) {
      look = this.look(name, row);
      this.looks.set(name, look);
    }
    return look;
  };

  readonly saving = (): Saving => (this.refusals.size > 0 ? "refused" : this.wanted.length === 0 ? "saved" : this.unreachable ? "waiting" : "saving");
  readonly mayUndo = () => this.done.at(-1)?.at;
  readonly mayRedo = () => this.undone.at(-1)?.at;

  /** `seen`: the version of the mark that stood there when the marker began to type; of a newer one nothing was known. */
  give(name: string, given: Given, seen?: number) {
    const before = this.answer(name);
    if (!before || (sameGiven(before.given, given) && !before.theirs)) return;
    let first = seen;
    const gives = () => {
      this.put(name, given, first);
      first = undefined; // done again later, on what is shown then
    };
    this.step({ at: name, undo: () => this.put(name, before.given), redo: gives });
  }

  draw(name: string, page: number, shape: { tool: Tool; points: InkPoint[]; width: number; text: string }): string {
    const row = this.rows.get(name);
    const key = crypto.randomUUID();
    if (!row) return key;
    const body = { folio_id: row.folio_id, edition: row.edition, question: row.question, page, ...shape };
    const draws = () => this.want({ what: "ink", at: name, key, body });
    this.step({ at: name, undo: () => this.want({ what: "erase", at: name, key }), redo: draws });
    return key;
  }

  erase(name: string, page: number, key: string) {
    const row = this.rows.get(name);
    const ink = this.answer(name)?.ink.get(page)?.find((one) => one.key === key);
    if (!row || !ink?.isOwn) return;
    const { tool, points, width, text } = ink;
    const body = { folio_id: row.folio_id, edition: row.edition, question: row.question, page, tool, points: [...points], width, text };
    this.step({
      at: name,
      undo: () => this.want({ what: "ink", at: name, key, body }),
      redo: () => this.want({ what: "erase", at: name, key }),
    });
  }

  /** Two marked the same answer: keep theirs, or write one's own over it, now that it was seen. */
  settleClash(name: string, keep: "theirs" | "mine") {
    const theirs = this.clashes.get(name);
    const row = this.rows.get(name);
    if (!theirs || !row) return;
    const mine = this.answer(name)?.given;
    this.clashes.delete(name);
    this.rows.set(name, { ...row, marks: [...row.marks.filter((one) => one.round !== theirs.round), theirs] });
    this.wanted = this.wanted.filter((one) => one.what !== "mark" || one.at !== name);
    if (keep === "mine" && mine) this.put(name, mine);
    else this.changed(name);
  }

  /** Gives up what the server does not take. */
  dropRefused(name: string) {
    this.refusals.delete(name);
    this.wanted = this.wanted.filter((one) => one.at !== name);
    this.changed(name);
  }

  /** Takes back the last step; says at which answer. */
  undo(): string | undefined {
    const step = this.done.pop();
    if (!step) return undefined;
    this.undone.push(step);
    step.undo();
    return step.at;
  }

  redo(): string | undefined {
    const step = this.undone.pop();
    if (!step) return undefined;
    this.done.push(step);
    step.redo();
    return step.at;
  }

  readonly retry = () => void this.flush();

  private step(step: Step) {
    this.done.push(step);
    this.undone = [];
    step.redo();
  }

  private put(name: string, given: Given, seen?: number) {
    const row = this.rows.get(name);
    if (!row) return;
    const body = {
      folio_id: row.folio_id, edition: row.edition, question: row.question, settles: row.round === "settled",
      version: seen ?? versionOf(row), points: given.points, note: given.note, not_attempted: given.notAttempted,
    };
    this.refusals.delete(name);
    // Of what waits for one answer only the newest is sent; what is on its way stays first.
    this.wanted = this.wanted.filter((one, at) => (at === 0 && this.busy) || one.what !== "mark" || one.at !== name);
    this.want({ what: "mark", at: name, body });
  }

  private want(wanted: Wanted) {
    this.wanted.push(wanted);
    this.changed(wanted.at);
    void this.flush();
  }

  private async flush() {
    if (this.busy) return;
    this.busy = true;
    for (let next = this.next(); next !== undefined; next = this.next()) {
      // The version as it is now: a mark that waited behind another of the same answer is made on that one.
      const sent = await this.link.send(this.onNewest(next));
      this.unreachable = sent === "unreachable";
      if (sent === "unreachable") {
        this.changed(next.at);
        await new Promise((wait) => setTimeout(wait, this.link.retryMs));
        continue;
      }
      this.settle(next, sent);
    }
    this.busy = false;
    this.tell();
  }

  private next(): Wanted | undefined {
    const next = this.wanted.find((one) => !this.refusals.has(one.at) && !this.clashes.has(one.at));
    if (next && this.wanted[0] !== next) this.wanted = [next, ...this.wanted.filter((one) => one !== next)];
    return next;
  }

  private onNewest(wanted: Wanted): Wanted {
    const row = this.rows.get(wanted.at);
    if (wanted.what !== "mark" || !row) return wanted;
    const own = ownMark(row);
    return own?.is_own && own.version > wanted.body.version ? { ...wanted, body: { ...wanted.body, version: own.version } } : wanted;
  }

  private settle(sent: Wanted, outcome: Exclude<Awaited<ReturnType<typeof sendMarking>>, "unreachable">) {
    if (outcome instanceof Problem) this.refusals.set(sent.at, outcome.message);
    else if ("theirs" in outcome) this.clashes.set(sent.at, outcome.theirs);
    else {
      const shown = this.answer(sent.at);
      this.savedAt.set(sent.at, performance.now());
      this.wanted = this.wanted.filter((one) => one !== sent);
      if ("row" in outcome) this.set(outcome.row);
      else if (shown) this.set(withInk(shown)); // until the server's next word
    }
    this.changed(sent.at);
  }

  private look(name: string, row: Row): ShownAnswer {
    const mine = this.wanted.filter((one) => one.at === name);
    const mark = mine.findLast((one) => one.what === "mark");
    const own = ownMark(row);
    const given = mark?.what === "mark" ? givenIn(mark.body) : { points: own?.points ?? null, note: own?.note ?? "", notAttempted: own?.not_attempted ?? false };
    const refusal = this.refusals.get(name) ?? "";
    return {
      row,
      given,
      saving: refusal ? "refused" : mine.length === 0 ? "saved" : this.unreachable ? "waiting" : "saving",
      refusal,
      theirs: this.clashes.get(name) ?? null,
      ink: inkOf(row, mine),
    };
  }

  private changed(name: string) {
    this.looks.delete(name);
    this.memory.keep(this.key, this.wanted);
    keepAnEyeOn(this, this.wanted.length > 0 ? "points, notes or ink that you gave last" : "");
    this.tell();
  }
}

function givenIn(body: Schemas["MarkIn"]): Given {
  return { points: body.points ?? null, note: body.note ?? "", notAttempted: body.not_attempted ?? false };
}

function sameGiven(one: Given, other: Given): boolean {
  return one.points === other.points && one.note === other.note && one.notAttempted === other.notAttempted;
}

function inkOf(row: Row, wanted: readonly Wanted[]): Map<number, ShownInk[]> {
  const ink = new Map<number, ShownInk[]>();
  for (const cut of [...row.cuts, ...row.may_be_on]) if (!ink.has(cut.page)) ink.set(cut.page, cut.ink.map((one) => ({ ...one, isOwn: one.is_own })));
  for (const one of wanted) {
    if (one.what === "mark") continue;
    for (const [page, shapes] of ink) ink.set(page, shapes.filter((shape) => shape.key !== one.key));
    if (one.what === "ink") {
      const shape = { ...one.body, text: one.body.text ?? "", key: one.key, isOwn: true, by: "" };
      ink.set(one.body.page, [...(ink.get(one.body.page) ?? []), shape]);
    }
  }
  return ink;
}

/** The row with the ink that is shown on it as the server's. */
function withInk({ row, ink }: ShownAnswer): Row {
  const drawn = (page: number) => (ink.get(page) ?? []).map(({ isOwn, ...one }) => ({ ...one, is_own: isOwn, points: [...one.points] }));
  return {
    ...row,
    cuts: row.cuts.map((cut) => ({ ...cut, ink: drawn(cut.page) })),
    may_be_on: row.may_be_on.map((cut) => ({ ...cut, ink: drawn(cut.page) })),
  };
}

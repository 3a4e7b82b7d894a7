import { Problem } from "../../shared/api/problem";
import { Observed } from "../../shared/Observed";
import { keepAnEyeOn } from "../../shared/unsaved";
import { answerMemory, type Unsent } from "./answerMemory";
import { type Content, NO_CONTENT, sameContent } from "./content";
import { type SavedAnswer, sendAnswer } from "./sendAnswer";

export type AnswerSaving = "saved" | "saving" | "waiting" | "refused";
export interface ShownAnswer {
  content: Content;
  saving: AnswerSaving;
  /** When the server had it last; null while it has none. */
  savedAt: string | null;
  /** Why the server does not take it; it stays on this device. */
  refusal: string;
  setAside: SavedAnswer["set_aside"];
}
export type ShownAnswers = Readonly<Record<string, ShownAnswer>>;

interface Kept {
  /** As the server has it; null while it has none. */
  saved: SavedAnswer | null;
  /** What was typed and is not there yet. */
  wanted: Unsent | null;
  refusal: string;
}

const PAUSE_MS = 700; // after such a pause in typing it is sent,
const MOST_MS = 4000; // and without a pause so often

export const NOT_ANSWERED: ShownAnswer = { content: NO_CONTENT, saving: "saved", savedAt: null, refusal: "", setAside: [] };

/**
 * The answers of one folio that are given on the screen: what the server has, with what is typed laid over it.
 *
 * All that is typed is kept in this browser at once and sent a moment later, against the version it was typed on. Where
 * another device changed an answer since, the server keeps what was typed here beside it, and both are shown.
 */
export class AnswerStore extends Observed {
  private readonly kept = new Map<string, Kept>();
  private busy = false;
  private unreachable = false;
  private typing: ReturnType<typeof setTimeout> | undefined;
  /** When the first letter was typed that is not sent yet. */
  private since: number | undefined;
  private now: ShownAnswers = {};

  constructor(
    private readonly folioId: number,
    answers: readonly SavedAnswer[],
    private readonly link = { send: sendAnswer, retryMs: 2000 },
    private readonly memory = answerMemory,
  ) {
    super();
    for (const saved of answers) this.kept.set(saved.question, { saved, wanted: null, refusal: "" });
    for (const [question, wanted] of Object.entries(memory.read(folioId))) {
      const { saved } = this.of(question);
      this.kept.set(question, { saved, wanted: onWhatIsThere(wanted, saved), refusal: "" });
    }
    this.changed();
    void this.flush();
  }

  readonly shown = () => this.now;

  /** News of the server. What is on its way settles itself. */
  hear(answers: readonly SavedAnswer[]) {
    for (const saved of answers) {
      const known = this.of(saved.question);
      if (saved.version < (known.saved?.version ?? 0)) continue;
      this.kept.set(saved.question, { ...known, saved, wanted: onWhatIsThere(known.wanted, saved) });
    }
    this.changed();
  }

  change(question: string, wanted: Partial<Content>) {
    const { saved, wanted: before } = this.of(question);
    const content = { ...(before?.content ?? saved?.content ?? NO_CONTENT), ...wanted } as Content;
    const version = before?.version ?? saved?.version ?? 0;
    this.kept.set(question, { saved, wanted: { ...before, version, content }, refusal: "" });
    this.changed();
    this.since ??= Date.now();
    clearTimeout(this.typing);
    const wait = Math.min(PAUSE_MS, this.since + MOST_MS - Date.now());
    this.typing = setTimeout(() => void this.flush(), Math.max(0, wait));
  }

  /** Another try at once: the network is back. */
  readonly retry = () => void this.flush();

  /** When nothing is on its way any more, except what the server refuses. */
  whenSaved(): Promise<void> {
    if (this.next() === undefined && !this.busy) return Promise.resolve();
    void this.flush();
    return new Promise((done) => {
      const end = this.subscribe(() => {
        if (this.next() !== undefined || this.busy) return;
        end();
        done();
      });
    });
  }

  has(question: string, version: number): boolean {
    return (this.of(question).saved?.version ?? 0) >= version;
  }

  private of(question: string): Kept {
    return this.kept.get(question) ?? { saved: null, wanted: null, refusal: "" };
  }

  /** The first that waits to be sent. */
  private next(without: ReadonlySet<string> = new Set()): string | undefined {
    return [...this.kept].find(([question, one]) => one.wanted !== null && one.refusal === "" && !without.has(question))?.[0];
  }

  private async flush() {
    clearTimeout(this.typing);
    this.typing = undefined;
    this.since = undefined;
    if (this.busy) return;
    this.busy = true;
    const sentNow = new Set<string>(); // what is typed on meanwhile waits for its own pause
    for (let question = this.next(); question !== undefined; question = this.next(sentNow)) {
      const { wanted, ...rest } = this.of(question);
      if (!wanted) break;
      const content = wanted.sending ?? wanted.content;
      this.kept.set(question, { ...rest, wanted: { ...wanted, sending: content } });
      this.changed();
      const sent = await this.link.send(this.folioId, question, wanted.version, content);
      this.unreachable = sent === "unreachable";
      if (sent === "unreachable") {
        this.changed();
        await new Promise((done) => setTimeout(done, this.link.retryMs));
      } else {
        sentNow.add(question);
        this.settle(question, content, sent);
      }
    }
    this.busy = false;
    if (this.next() !== undefined) this.typing ??= setTimeout(() => void this.flush(), PAUSE_MS);
    this.changed();
  }

  private settle(question: string, sent: Content, outcome: { answer: SavedAnswer; stale: boolean } | Problem) {
    const { saved, wanted } = this.of(question);
    const typedOn = wanted !== null && !sameContent(wanted.content, sent);
    if (outcome instanceof Problem) {
      const kept = wanted && { version: wanted.version, content: wanted.content };
      this.kept.set(question, { saved, wanted: kept, refusal: typedOn ? "" : outcome.message });
    } else {
      // After a stale one, what was typed on meanwhile is sent on the old state too, so that it is kept beside as well.
      const version = outcome.stale ? (wanted?.version ?? 0) : outcome.answer.version;
      const next = typedOn && wanted ? { version, content: wanted.content } : null;
      this.kept.set(question, { saved: outcome.answer, wanted: next, refusal: "" });
    }
    this.changed();
  }

  private look(one: Kept): ShownAnswer {
    const { saved, wanted, refusal } = one;
    const saving = !wanted ? "saved" : refusal ? "refused" : this.unreachable ? "waiting" : "saving";
    return {
      content: wanted?.content ?? (saved?.content as Content | undefined) ?? NO_CONTENT,
      saving,
      savedAt: saved?.saved_at ?? null,
      refusal,
      setAside: saved?.set_aside ?? [],
    };
  }

  private changed() {
    this.now = Object.fromEntries([...this.kept].map(([question, one]) => [question, this.look(one)]));
    const unsent = Object.fromEntries([...this.kept].flatMap(([question, one]) => (one.wanted ? [[question, one.wanted]] : [])));
    this.memory.keep(this.folioId, unsent);
    keepAnEyeOn(this, Object.keys(unsent).length > 0 ? "what you typed last" : "");
    this.tell();
  }
}

/** What waits to be sent, told by what the server has: null where that is the same, and made on it where the server has
 *  what was sent last and could not say so. */
function onWhatIsThere(wanted: Unsent | null, saved: SavedAnswer | null): Unsent | null {
  if (!wanted || !saved) return wanted;
  const there = saved.content as Content;
  if (sameContent(there, wanted.content)) return null;
  const arrived = wanted.sending !== undefined && sameContent(there, wanted.sending);
  return arrived ? { version: saved.version, content: wanted.content } : wanted;
}

const stores = new Map<number, AnswerStore>();

export function answerStore(folioId: number, answers: readonly SavedAnswer[]): AnswerStore {
  const store = stores.get(folioId) ?? new AnswerStore(folioId, answers);
  stores.set(folioId, store);
  return store;
}

/** Whether this browser has the answer as the server has it: what it saved itself is no news to it. */
export function hasAnswer(folioId: number, question: string, version: number): boolean {
  return stores.get(folioId)?.has(question, version) ?? false;
}

/** When no answer of the folio is on its way any more. */
export function savedAnswers(folioId: number): Promise<void> {
  return stores.get(folioId)?.whenSaved() ?? Promise.resolve();
}

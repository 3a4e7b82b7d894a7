import type { Schemas } from "../../shared/api/client";

/** What a student answered on the screen to one question. */
export type Content = Required<Schemas["ContentDoc"]>;
export type AnswerKind = Schemas["QuestionOut"]["kinds"][number];
type Asked = Pick<Schemas["QuestionOut"], "id" | "kinds">;

export const NO_CONTENT: Content = { chosen: [], short: "", written: "" };
/** As `folio_core.answers.content`: beyond it the server refuses, and says so. */
export const WRITTEN_MOST = 30_000;
export const SHORT_MOST = 300;
const SHOWN = 48; // characters of what is written, in its question's row

export function isOnPages(kind: AnswerKind): boolean {
  return kind === "pages" || kind === "pictures";
}

/** The kinds that are answered on the screen. */
export function onScreen(question: Asked): AnswerKind[] {
  return question.kinds.filter((kind) => !isOnPages(kind));
}

export function takesPages(question: Asked): boolean {
  return question.kinds.some(isOnPages);
}

/** What of it is given, of what is asked for; as `AnswerContent.given`. */
export function givenOf(content: Content, question: Asked): AnswerKind[] {
  const held = { chosen: content.chosen.length > 0, short: content.short.trim() !== "", written: content.written.trim() !== "" };
  return onScreen(question).filter((kind) => held[kind as keyof typeof held]);
}

export function sameContent(one: Content, other: Content): boolean {
  return one.short === other.short && one.written === other.written && one.chosen.toSorted().join() === other.chosen.toSorted().join();
}

/** In a few words, for the question's row: "B", "3.2 m/s", "In deep water …". */
export function contentWords(content: Content, question: Schemas["QuestionOut"]): string {
  const given = givenOf(content, question);
  const words: Partial<Record<AnswerKind, string>> = {
    chosen: content.chosen
      .map((id) => question.choices.findIndex((one) => one.id === id))
      .filter((at) => at >= 0)
      .sort((a, b) => a - b)
      .map(choiceName)
      .join(", "),
    short: content.short.trim(),
    written: beginning(content.written),
  };
  return given.map((kind) => words[kind]).join(" · ");
}

function beginning(text: string): string {
  const line = text.trim().replace(/\s+/g, " ");
  return line.length > SHOWN ? `${line.slice(0, SHOWN)} …` : line;
}

/** Choices are told apart by letters, in the order in which this student sees them. */
export function choiceName(at: number): string {
  return String.fromCharCode("A".charCodeAt(0) + at);
}

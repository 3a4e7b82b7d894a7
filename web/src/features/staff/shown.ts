import type { Schemas } from "../../shared/api/client";

type Line = Schemas["FolioLine"];

/** What of the list may be shown alone; each with the words for it and who belongs to it. */
export const KINDS = {
  all: { words: "All", holds: () => true },
  not_begun: { words: "Not begun", holds: (one: Line) => one.folio_id === null },
  writing: { words: "At work", holds: (one: Line) => one.folio_id !== null && one.edition === null },
  handed_in: { words: "Handed in", holds: (one: Line) => one.edition !== null },
  late: { words: "Late", holds: (one: Line) => one.verdict === "late" },
  by_itself: { words: "By itself", holds: (one: Line) => one.automatic },
  open: { words: "Open questions", holds: (one: Line) => one.edition !== null && one.open_labels.length > 0 },
  asked: { words: "Asked again", holds: (one: Line) => one.asked },
  answered: { words: "Sent again", holds: (one: Line) => one.answered },
  advice: { words: "Advice", holds: (one: Line) => one.advice > 0 },
} satisfies Record<string, { words: string; holds: (one: Line) => boolean }>;
export type KindOfLine = keyof typeof KINDS;

export interface Shown {
  kind: KindOfLine;
  section: string;
  words: string;
}

/** From the address, so that coming back from a folio shows the same part of the list. */
export function readShown(search: URLSearchParams): Shown {
  const kind = search.get("show") ?? "all";
  return { kind: Object.hasOwn(KINDS, kind) ? (kind as KindOfLine) : "all", section: search.get("section") ?? "", words: search.get("words") ?? "" };
}

export function writeShown({ kind, section, words }: Shown): URLSearchParams {
  const said = { show: kind === "all" ? "" : kind, section, words };
  return new URLSearchParams(Object.entries(said).filter(([, value]) => value !== ""));
}

/** Each word must be in the name, the number or the mail address; accents and capitals do not matter. */
export function found(lines: readonly Line[], { section, words }: Shown): Line[] {
  const wanted = plain(words).split(/\s+/).filter(Boolean);
  return lines.filter((one) => {
    const said = plain(`${one.student} ${one.number} ${one.email}`);
    return (section === "" || one.section === section) && wanted.every((word) => said.includes(word));
  });
}

function plain(text: string): string {
  return text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
}

/** How many of these lines belong to each kind. */
export function counts(lines: readonly Line[]): Record<KindOfLine, number> {
  const counted = Object.entries(KINDS).map(([kind, { holds }]) => [kind, lines.filter(holds).length]);
  return Object.fromEntries(counted) as Record<KindOfLine, number>;
}

import type { Schemas } from "../../shared/api/client";

export type Saved = Schemas["QuestionMapOut"];
/** How a question is to be answered. */
export type Answering = Schemas["AnsweringDoc"];

const ON_PAGES: Answering = {
  kinds: ["pages"], text: "", choices: [], many: false, mixed: false, right: [], before_pages: false,
  short: { kind: "number", expected: "", unit: "", tolerance: 0 },
};

/** An entry of the map as it is edited. */
export interface Entry {
  key: string;
  id: number | null;
  label: string;
  title: string;
  points: number;
  /** What is the same for the questions of one "any n of"; "" for one that everybody is to answer. */
  group: string;
  /** That n; 0 for a bonus. */
  choose: number | null;
  answering: Answering;
}
export interface WantedEntry {
  label: string;
  title?: string;
  points?: number | null;
  group?: string;
  choose?: number | null;
}

export function asEntry({ id, label, title, points, group, answering }: Saved["entries"][number], { groups }: Saved): Entry {
  const choice = group === null ? { group: "", choose: null } : { group: String(group), choose: groups[group] ?? null };
  return { key: String(id), id, label, title, points, answering, ...choice };
}

export function newEntry(label: string): Entry {
  return { key: crypto.randomUUID(), id: null, label, title: "", points: 0, group: "", choose: null, answering: ON_PAGES };
}

export function bodyOf(saved: Saved, entries: Entry[]): Schemas["QuestionMapIn"] {
  const groups = [...new Set(entries.map((one) => one.group))].filter(Boolean);
  return {
    version: saved.version,
    groups: groups.map((group) => entries.find((one) => one.group === group)?.choose ?? 0),
    entries: entries.map(({ id, label, title, points, group, answering }) => ({ id, label, title, points, answering, group: group ? groups.indexOf(group) : null })),
  };
}

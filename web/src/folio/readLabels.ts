import type { Schemas } from "../../shared/api/client";

type Question = Pick<Schemas["QuestionOut"], "label" | "question">;

export interface Typed {
  labels: string[];
  /** Pieces that are not on the question map, as typed. */
  unknown: string[];
  /** Labels of the map that such a piece may have meant. */
  nearest: string[];
}

const TOKEN = /^(?:(?:question|problem|exercise|q|p|no\.?|nr\.?)\s*\.?\s*)?(\d{1,3})?\s*[.(]?\s*([a-z]{1,8})?\s*\)?$/;
const WORDS = /\b(?:questions?|problems?|exercises?|q|nr|no)\.?\s*(?=\d)/g;
const RANGE = /\s*(?:-|–|—|\.\.|\bto\b)\s*/g;
const BETWEEN = /(?<=[0-9a-z)])\s+(?=\d)|(?<=[a-z)])\s+(?=[a-z]\b)/g;
const ROMAN = ["i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x", "xi", "xii"];

/**
 * What a typed line means on a question map. The core reads the same (`folio_core.outline.parse_labels`); here it must
 * be known before the next key, and without network. Both are held to `core/tests/typed_labels.json`.
 */
export function readLabels(text: string, map: readonly Question[]): Typed {
  const labels = new Set<string>();
  const unknown: string[] = [];
  let question = "";
  for (const piece of pieces(text)) {
    const read = readPiece(piece, question, map);
    question = read.question;
    if (read.labels.length > 0) read.labels.forEach((label) => labels.add(label));
    else unknown.push(piece);
  }
  const nearest = new Set(unknown.flatMap((piece) => nearestTo(piece, map)));
  return { labels: [...labels], unknown, nearest: map.map((one) => one.label).filter((label) => nearest.has(label)) };
}

function pieces(text: string): string[] {
  const lowered = text.trim().toLowerCase().replace(/\s+(?:and|&)\s+/g, ",");
  const glued = lowered.replace(WORDS, "").replace(RANGE, "-").replace(BETWEEN, ",");
  return glued
    .split(/[,;+]/)
    .map((piece) => piece.trim())
    .filter(Boolean);
}

function readPiece(piece: string, before: string, map: readonly Question[]): { labels: string[]; question: string } {
  const dash = piece.indexOf("-");
  const ends = dash < 0 ? [piece] : [piece.slice(0, dash), piece.slice(dash + 1)];
  const read = ends.map((end) => TOKEN.exec(end.trim()));
  if (!read.every((end) => end?.[1] || end?.[2])) return { labels: [], question: before };
  const question = read[0]?.[1] ?? before;
  const first = one(map, question, read[0]?.[2] ?? "");
  if (read.length === 1) return { labels: first, question };
  const lastQuestion = read[1]?.[1] ?? question;
  const last = one(map, lastQuestion, read[1]?.[2] ?? "");
  return { labels: between(map, first[0], last.at(-1)), question: lastQuestion };
}

/** All parts of a question, the one that is named, those whose letters are run together, or a roman numeral's. */
function one(map: readonly Question[], question: string, part: string): string[] {
  const parts = map.filter((item) => item.question === question).map((item) => item.label);
  if (!part) return parts;
  const run = [...part].map((letter) => question + letter);
  if (run.every((label) => map.some((item) => item.label === label))) return run;
  return parts.filter((_, at) => at === ROMAN.indexOf(part));
}

function between(map: readonly Question[], first: string | undefined, last: string | undefined): string[] {
  const [low, high] = [first, last].map((label) => map.findIndex((item) => item.label === label)).sort((a, b) => a - b);
  if (low === undefined || high === undefined || low < 0) return [];
  return map.slice(low, high + 1).map((item) => item.label);
}

/** Labels of the piece's question first, else those that differ in one sign. */
function nearestTo(piece: string, map: readonly Question[]): string[] {
  const bare = piece.replace(/[^0-9a-z]/g, "");
  const number = /^\d+/.exec(bare)?.[0];
  const same = map.filter((item) => number !== undefined && item.question === number);
  const close = same.length > 0 ? same : map.filter((item) => differsInOneSign(item.label, bare));
  return close.slice(0, 3).map((item) => item.label);
}

function differsInOneSign(a: string, b: string): boolean {
  if (Math.abs(a.length - b.length) > 1) return false;
  let start = 0;
  while (start < a.length && a[start] === b[start]) start += 1;
  let [endA, endB] = [a.length, b.length];
  while (endA > start && endB > start && a[endA - 1] === b[endB - 1]) [endA, endB] = [endA - 1, endB - 1];
  return endA - start <= 1 && endB - start <= 1;
}

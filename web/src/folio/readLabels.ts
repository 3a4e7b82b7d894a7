import type { Schemas } from "../shared/api/client";

type Question = Pick<Schemas["QuestionOut"], "id" | "label">;

export interface Typed {
  /** The questions that were meant, by id. */
  questions: string[];
  /** Pieces that are not on the question map, as typed. */
  unknown: string[];
  /** Labels of the map that such a piece may have meant. */
  nearest: string[];
}

const ROMAN = ["i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x", "xi", "xii"];
const WORD = /^(?:question|problem|exercise|q|p|no\.?|nr\.?)\s*\.?\s*/;
const WORDS = /\b(?:questions?|problems?|exercises?|q|nr|no)\.?\s*(?=\d)/g;
const RANGE = /\s*(?:-|–|—|\.\.|\bto\b)\s*/g;
const BETWEEN = /(?<=[0-9a-z)])\s+(?=\d)|(?<=[a-z)])\s+(?=[a-z]\b)/g;
const PIECE = /^([1-9]\d{0,3}(?:\.[1-9]\d{0,3})*)?([a-z]{0,8})$/;

/**
 * What a typed line means on a question map. The core reads the same (`folio_core.labels.parse_labels`, where the rules
 * are told); here it must be known before the next key, and without network. Both are held to
 * `core/tests/typed_labels.json`.
 */
export function readLabels(text: string, map: readonly Question[]): Typed {
  const reader = new Reader(map.map((one) => one.label));
  const labels = new Set<string>();
  const unknown: string[] = [];
  for (const piece of pieces(text)) {
    const read = reader.read(piece);
    if (read.length > 0) read.forEach((label) => labels.add(label));
    else unknown.push(piece);
  }
  const nearest = new Set(unknown.flatMap((piece) => nearestTo(piece, map)));
  const ids = new Map(map.map((one) => [one.label, one.id]));
  return {
    questions: [...labels].map((label) => ids.get(label) ?? ""),
    unknown,
    nearest: map.map((one) => one.label).filter((label) => nearest.has(label)),
  };
}

function pieces(text: string): string[] {
  const lowered = text.trim().toLowerCase().replace(/\s+(?:and|&)\s+/g, ",");
  const glued = lowered.replace(WORDS, "").replace(RANGE, "-").replace(BETWEEN, ",");
  return glued
    .split(/[,;+]/)
    .map((piece) => piece.trim())
    .filter(Boolean);
}

type Path = readonly string[];

/** The levels of a label of a map: "1aii" → 1, a, ii. */
function levels(label: string): Path {
  const [, numbers = "", tail = ""] = /^([\d.]+)([a-z]*)$/.exec(label) ?? [];
  return [...numbers.split("."), ...(tail ? (ways(tail).find((way) => way.length === 1 ? isLevel(tail) : true) ?? [tail]) : [])];
}

function isLevel(text: string): boolean {
  return text.length === 1 || ROMAN.includes(text);
}

/** How a run of letters can be levels: none, one, a letter with a numeral behind it, a numeral with a letter. */
function ways(letters: string): Path[] {
  if (!letters) return [[]];
  const found: Path[] = [[letters]];
  if (ROMAN.includes(letters.slice(1))) found.push([letters.slice(0, 1), letters.slice(1)]);
  if (ROMAN.includes(letters.slice(0, -1))) found.push([letters.slice(0, -1), letters.slice(-1)]);
  return found;
}

function joined(path: Path): string {
  return path.reduce((label, level) => (/\d$/.test(label) && /^\d/.test(level) ? `${label}.${level}` : label + level), "");
}

/** Reads one piece after another, each in the light of the question that was named before it. */
class Reader {
  private readonly paths: Map<string, Path>;
  private question: Path = [];

  constructor(private readonly labels: readonly string[]) {
    this.paths = new Map(labels.map((label) => [label, levels(label)]));
  }

  read(piece: string): string[] {
    const dash = piece.indexOf("-");
    if (dash < 0) return this.end(piece);
    const first = this.end(piece.slice(0, dash));
    const last = this.end(piece.slice(dash + 1));
    const ends = [first[0], last.at(-1)].map((label) => (label === undefined ? -1 : this.labels.indexOf(label)));
    const [low = -1, high = -1] = ends.sort((a, b) => a - b);
    return low < 0 ? [] : this.labels.slice(low, high + 1);
  }

  /** One end of a range, or a piece without one. */
  private end(text: string): string[] {
    const bare = text.trim().replace(WORD, "").replace(/(?<=\d)\((?=\d)/g, ".").replace(/[\s()]/g, "");
    const written = bare.replace(/(?<=\d)\.(?=[a-z])|(?<=[a-z])\.|\.$/g, "");
    const found = PIECE.exec(written);
    if (!found || !written) return [];
    const [, number, letters = ""] = found;
    if (number) {
      this.question = number.split(".");
      return this.below(this.question, letters);
    }
    for (let depth = this.question.length; depth > 0; depth -= 1) {
      const read = this.below(this.question.slice(0, depth), letters);
      if (read.length > 0) return read;
    }
    return [];
  }

  /** All parts of a question, the one that is named, those whose letters are run together, or those counted. */
  private below(question: Path, letters: string): string[] {
    const whole = joined(question) + letters;
    const path = this.paths.get(whole);
    if (path) {
      this.question = path.length > 1 ? path.slice(0, -1) : path;
      return [whole];
    }
    for (const way of ways(letters)) {
      const parts = this.parts([...question, ...way]);
      if (parts.length > 0) {
        this.question = [...question, ...way.slice(0, -1)];
        return parts;
      }
    }
    const runs = [...letters].map((letter) => this.parts([...question, letter]));
    if (runs.length > 0 && runs.every((run) => run.length > 0)) return runs.flat();
    const counted = this.children(question)[ROMAN.indexOf(letters)];
    return counted === undefined ? [] : this.parts([...question, counted]);
  }

  private parts(path: Path): string[] {
    return this.labels.filter((label) => path.every((level, at) => this.paths.get(label)?.[at] === level));
  }

  /** The levels right below a path, in the order of the map. */
  private children(path: Path): string[] {
    const below = this.parts(path).flatMap((label) => this.paths.get(label)?.[path.length] ?? []);
    return [...new Set(below)];
  }
}

/** Labels of the piece's question first, else those that differ in one sign. */
function nearestTo(piece: string, map: readonly Question[]): string[] {
  const bare = piece.replace(/[^0-9a-z]/g, "");
  const number = /^\d+/.exec(bare)?.[0];
  const same = map.filter((item) => number !== undefined && levels(item.label)[0] === number);
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

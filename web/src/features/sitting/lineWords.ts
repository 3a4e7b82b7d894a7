import { clockTime, lengthOfTime } from "../../shared/time";
import { count } from "../../shared/words";
import type { Line } from "./useSitting";

/** What an instructor may have to see to, in words. */
export function needWords(line: Line, now: number, zone: string): string[] {
  return line.needs.map((need) => {
    if (need === "no_page") return `no page yet, ${lengthOfTime(Date.parse(line.closes) - now)} left`;
    if (need === "promised") return `${count(line.promised, "page")} promised, not here`;
    if (need === "failed") return "a page cannot be opened";
    return `not begun; full time until ${clockTime(line.latest_full_begin ?? line.closes, zone)} only`;
  });
}

/** How it stands with a student, in a few words. */
export function standing(line: Line, now: number, zone: string): string {
  const pages = count(line.arrived.length, "page");
  if (line.unheard > 0) return [standing({ ...line, unheard: 0 }, now, zone), `${count(line.unheard, "word")} not seen yet`].filter(Boolean).join(" · ");
  if (line.needs.length > 0) return line.arrived.length > 0 ? `${pages} safe` : ""; // the rest is said in red
  const parts = [
    line.edition !== null && `handed in, edition ${line.edition}`,
    line.arrived.length > 0 && `${pages} safe`,
    line.answers > 0 && `${count(line.answers, "answer")} on the screen`,
    line.promised > 0 && `${line.promised} promised`,
  ].filter(Boolean);
  if (line.folio_id === null) return line.phase === "closed" ? "did not begin" : "not begun";
  if (parts.length === 0) parts.push(line.phase === "handover" ? "handover, no page yet" : PHASES[line.phase] ?? line.phase);
  const ends = line.phase === "writing" && line.writing_ends ? `pen down ${clockTime(line.writing_ends, zone)}` : "";
  const closes = line.phase === "handover" ? `closes in ${lengthOfTime(Date.parse(line.closes) - now)}` : "";
  return [parts.join(", "), ends || closes].filter(Boolean).join(" · ");
}

const PHASES: Partial<Record<Line["phase"], string>> = {
  writing: "writing",
  late: "late",
  placing: "closed, placing goes on",
  closed: "closed, nothing came",
  ready: "not begun",
};

/** Whether time can be given to it. */
export function isRunning(line: Line): boolean {
  return line.folio_id !== null && (line.phase === "writing" || line.phase === "handover");
}

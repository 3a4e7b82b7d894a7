import type { Sitting } from "./useSitting";

const DAY_MS = 86_400_000;

export interface Scale {
  start: number;
  end: number;
  marks: number[];
  inDays: boolean;
  at: (moment: number) => number;
}

/** From the first beginning to the last close, with a mark at each quarter, half or whole hour, or day. */
export function scaleOf({ lines, opens, due, assignment }: Sitting): Scale {
  const begun = lines.filter((one) => one.folio_id !== null);
  const start = Math.min(...begun.map((one) => Date.parse(one.begun ?? opens)), begun.length > 0 ? Infinity : Date.parse(opens));
  const end = Math.max(...begun.map((one) => Date.parse(one.closes)), begun.length > 0 ? 0 : Date.parse(due), start + 60_000);
  const steps = [15, 30, 60, 120, 360, 1440, 2880, 10_080].map((minutes) => minutes * 60_000);
  const step = steps.find((one) => (end - start) / one <= 7) ?? end - start;
  const zone = step >= DAY_MS ? offsetOf(assignment.time_zone, start) : 0; // a day begins at its own midnight
  const first = Math.ceil((start + zone) / step) * step - zone;
  const marks = Array.from({ length: Math.max(0, Math.floor((end - first) / step) + 1) }, (_, number) => first + number * step);
  return { start, end, marks, inDays: step >= DAY_MS, at: (moment) => ((moment - start) / (end - start)) * 100 };
}

/** How far the clocks of a zone are ahead of UTC at an instant, in milliseconds. */
function offsetOf(timeZone: string, at: number): number {
  const wall = new Date(at).toLocaleString("sv-SE", { timeZone }).replace(" ", "T");
  return Date.parse(`${wall}Z`) - Math.floor(at / 1000) * 1000;
}

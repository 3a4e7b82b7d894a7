import type { Line } from "./useSitting";

export type Order = "closes" | "name" | "needs";
const names = new Intl.Collator();
const lastName = (line: Line) => `${line.name.split(" ").at(-1)} ${line.name}`;
const NEVER = 8.64e15; // the end of time

/** By name, or who needs somebody first and then what closes first; `needs`: only those who do. */
export function inOrder(lines: readonly Line[], order: Order): Line[] {
  const shown = order === "needs" ? lines.filter((one) => one.needs.length > 0) : [...lines];
  const byName = (a: Line, b: Line) => names.compare(lastName(a), lastName(b));
  if (order === "name") return shown.sort(byName);
  const end = (line: Line) => {
    if (line.folio_id === null) return NEVER - 2;
    if (line.edition !== null) return NEVER - 1; // whoever has handed in is out of the woods
    return line.phase === "closed" ? NEVER : Date.parse(line.closes);
  };
  return shown.sort((a, b) => Number(b.needs.length > 0) - Number(a.needs.length > 0) || end(a) - end(b) || byName(a, b));
}

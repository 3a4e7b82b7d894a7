import type { Row } from "./sendMarking";

export type Order = "roster" | "unmarked" | "mixed" | "alike" | "second";
export const ORDERS: readonly { value: Order; label: string }[] = [
  { value: "roster", label: "As on the roster" },
  { value: "unmarked", label: "Unmarked first" },
  { value: "mixed", label: "Mixed" },
  { value: "alike", label: "Alike ones together" },
  { value: "second", label: "Marked by two first" },
];
const STATES = ["answered", "left_blank", "open"];

/** The answers in the order to mark them; what is open always comes last. `seed`: the same one mixes in the same way. */
export function ordered(rows: readonly Row[], order: Order, seed: string): Row[] {
  const places = new Map(rows.map((row, at) => [row, at]));
  const place = (row: Row) => places.get(row) ?? 0;
  const state = (row: Row) => STATES.indexOf(row.state);
  const by: Record<Order, (row: Row) => string | number> = {
    roster: place,
    unmarked: (row) => (row.worth === null ? 0 : 1),
    mixed: (row) => mixed(`${seed} ${row.folio_id}`),
    alike: (row) => row.alike,
    second: (row) => (row.differs ? 0 : row.wants_second ? 1 : 2),
  };
  return [...rows].sort((one, other) => state(one) - state(other) || compare(by[order](one), by[order](other)) || place(one) - place(other));
}

function compare(one: string | number, other: string | number): number {
  return one < other ? -1 : one > other ? 1 : 0;
}

/** FNV-1a (Fowler, Noll, Vo), 32 bits. */
function mixed(text: string): number {
  let hash = 0x811c9dc5;
  for (const sign of text) hash = Math.imul(hash ^ (sign.codePointAt(0) ?? 0), 0x01000193) >>> 0;
  return Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d) >>> 0;
}

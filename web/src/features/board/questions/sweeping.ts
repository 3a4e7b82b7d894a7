/** A rectangle of question rows by page columns, from where a sweep began to where it is. */
export interface Sweep {
  from: { row: number; column: number };
  to: { row: number; column: number };
  /** Whether the cells are placed (else: taken off); what the first one was not. */
  on: boolean;
}

export function sweptRows({ from, to }: Sweep): [number, number] {
  return [Math.min(from.row, to.row), Math.max(from.row, to.row)];
}

export function sweptColumns({ from, to }: Sweep): [number, number] {
  return [Math.min(from.column, to.column), Math.max(from.column, to.column)];
}

/** What a cell would be at the end of the sweep. */
export function inSweep(sweep: Sweep, row: number, column: number): boolean {
  const [top, bottom] = sweptRows(sweep);
  const [left, right] = sweptColumns(sweep);
  return row >= top && row <= bottom && column >= left && column <= right;
}

/** Neighbouring columns that are on, as one ribbon each. */
export function runs(placed: readonly boolean[]): { start: number; length: number }[] {
  const found: { start: number; length: number }[] = [];
  placed.forEach((on, column) => {
    const last = found.at(-1);
    if (on && last && last.start + last.length === column) last.length += 1;
    else if (on) found.push({ start: column, length: 1 });
  });
  return found;
}

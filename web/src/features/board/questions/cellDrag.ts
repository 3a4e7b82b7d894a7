/** A rectangle of question rows by page columns, from where a drag began to where it is. */
export interface CellDrag {
  from: { row: number; column: number };
  to: { row: number; column: number };
  /** Whether the cells are placed (else: taken off); what the first one was not. */
  on: boolean;
}

export function draggedRows({ from, to }: CellDrag): [number, number] {
  return [Math.min(from.row, to.row), Math.max(from.row, to.row)];
}

export function draggedColumns({ from, to }: CellDrag): [number, number] {
  return [Math.min(from.column, to.column), Math.max(from.column, to.column)];
}

/** What a cell would be at the end of the drag. */
export function isInDrag(drag: CellDrag, row: number, column: number): boolean {
  const [top, bottom] = draggedRows(drag);
  const [left, right] = draggedColumns(drag);
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

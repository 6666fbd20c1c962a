import type { AskedRowChange, Json, KeptRow, Row, TableColumn } from '@vast-knot/core';

/** Rows as a person has changed them, by id: other cells, or null for a row that is removed. New rows have ids below 0. */
export type Edits = ReadonlyMap<number, Row | null>;

export interface CellEdit {
  readonly id: number;
  readonly column: number;
  readonly value: Json;
}

/** Returns the rows as they would be: edited ones in their places, new ones at the end, removed ones kept for sight. */
export function editedRows(rows: readonly KeptRow[], edits: Edits): readonly KeptRow[] {
  if (edits.size === 0) return rows;
  const changed = rows.map((row) => {
    const cells = edits.get(row.id);
    return cells ? { id: row.id, cells } : row;
  });
  const added = [...edits].flatMap(([id, cells]) => (id < 0 && cells ? [{ id, cells }] : []));
  return [...changed, ...added];
}

/** Returns the edits with other values in some cells; a row that is again as it was is not edited. */
export function withCells(rows: readonly KeptRow[], edits: Edits, cells: readonly CellEdit[]): Edits {
  const ids = new Set(cells.map(({ id }) => id));
  const kept = new Map(rows.filter(({ id }) => ids.has(id)).map((row) => [row.id, row.cells]));
  const next = new Map(edits);
  for (const { id, column, value } of cells) {
    const before = next.get(id) ?? kept.get(id);
    if (before && before[column] !== value) next.set(id, before.with(column, value));
  }
  for (const [id, original] of kept) {
    if (next.get(id)?.every((value, at) => value === original[at])) next.delete(id);
  }
  return next;
}

export function withNewRows(edits: Edits, cells: readonly Row[]): Edits {
  const next = new Map(edits);
  let id = Math.min(0, ...edits.keys());
  for (const row of cells) next.set(--id, row);
  return next;
}

/** Removes rows; new ones are gone at once, and those that are marked already come back. */
export function withRemoved(edits: Edits, ids: readonly number[]): Edits {
  const next = new Map(edits);
  const back = ids.every((id) => edits.get(id) === null);
  for (const id of ids) {
    if (id < 0 || back) next.delete(id);
    else next.set(id, null);
  }
  return next;
}

/** Returns what the server is asked for. */
export function askedChanges(rows: readonly KeptRow[], edits: Edits): readonly AskedRowChange[] {
  const kept = new Map(rows.map((row) => [row.id, row.cells]));
  return [...edits].map(([id, after]) =>
    id < 0 ? { id: null, before: null, after } : { id, before: kept.get(id) ?? null, after },
  );
}

/** Cells copied from a spreadsheet: rows of cells that tabs part. */
export function cellsFromText(text: string): readonly (readonly string[])[] {
  return text
    .replace(/\r?\n$/, '')
    .split(/\r?\n/)
    .map((line) => line.split('\t'));
}

/** Returns pasted cells without a first line that says what the columns are called, as a copied sheet has it. */
export function withoutHead(
  cells: readonly (readonly string[])[],
  columns: readonly TableColumn[],
): readonly (readonly string[])[] {
  const [first = []] = cells;
  const isHead =
    first.length > 0 &&
    first.every((cell, at) => {
      const column = columns[at];
      const said = cell.trim().toLowerCase();
      return (
        column !== undefined && (said === column.label.toLowerCase() || said === column.name.toLowerCase())
      );
    });
  return isHead ? cells.slice(1) : cells;
}

import { joinKeys, keyColumns } from './key';
import type { KeptRow, Row, TableDefinition } from './table';

/** What happens to one row: added (`before` is null), removed (`after` is null), or given other values. */
export interface RowChange {
  readonly id: number;
  readonly before: Row | null;
  readonly after: Row | null;
}

/** Returns the change that takes a change back. */
export function invertRowChange({ id, before, after }: RowChange): RowChange {
  return { id, before: after, after: before };
}

/** Rows after changes, or the row that is not any more as a change expects it. Added rows stand at the end. */
export function applyRowChanges(
  rows: readonly KeptRow[],
  changes: readonly RowChange[],
): { readonly rows: readonly KeptRow[] } | { readonly stale: RowChange } {
  const after = new Map(rows.map((row) => [row.id, row]));
  for (const change of changes) {
    const present = after.get(change.id)?.cells ?? null;
    if (!sameCells(present, change.before)) return { stale: change };
    if (change.after === null) after.delete(change.id);
    else after.set(change.id, { id: change.id, cells: change.after });
  }
  return { rows: [...after.values()] };
}

function sameCells(a: Row | null, b: Row | null): boolean {
  if (a === null || b === null) return a === b;
  return a.length === b.length && a.every((value, at) => value === b[at]);
}

/** How incoming rows differ from those of a table: rows are told apart by their keys (and first day of validity). */
interface RowDifference {
  readonly added: readonly Row[];
  readonly changed: readonly { readonly row: KeptRow; readonly after: Row }[];
  readonly removed: readonly KeptRow[];
  readonly same: number;
}

export function compareRows(
  definition: TableDefinition,
  rows: readonly KeptRow[],
  incoming: readonly Row[],
): RowDifference {
  const keys = [...keyColumns(definition)];
  const from = definition.validity?.from;
  if (from !== undefined) keys.push(definition.columns.findIndex(({ name }) => name === from));
  const keyOf = (cells: Row) =>
    joinKeys(
      keys.map((at) => cells[at]),
      definition.matching === 'caseless',
    );
  const known = new Map(rows.map((row) => [keyOf(row.cells), row]));
  const added: Row[] = [];
  const changed: { row: KeptRow; after: Row }[] = [];
  let same = 0;
  for (const cells of incoming) {
    const key = keyOf(cells);
    const row = known.get(key);
    known.delete(key);
    if (!row) added.push(cells);
    else if (sameCells(row.cells, cells)) same++;
    else changed.push({ row, after: cells });
  }
  return { added, changed, removed: [...known.values()], same };
}

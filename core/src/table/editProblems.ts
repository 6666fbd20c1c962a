import { joinKeys, keyColumns } from './key';
import { rowProblems, type TableProblem } from './problems';
import type { KeptRow, Row, TableDefinition } from './table';

/**
 * Returns what is wrong with rows that were edited, held against all others. Only the edited ones, and those that have a key with
 * one of them in common, are looked at closely, so that it costs little in a large table.
 */
export function editProblems(
  definition: TableDefinition,
  rows: readonly KeptRow[],
  edited: ReadonlySet<number>,
): readonly TableProblem[] {
  const keys = keyColumns(definition);
  const caseless = definition.matching === 'caseless';
  const keyOf = (cells: Row) =>
    joinKeys(
      keys.map((at) => cells[at]),
      caseless,
    );
  const taken = new Set(rows.filter(({ id }) => edited.has(id)).map(({ cells }) => keyOf(cells)));
  const places: number[] = [];
  rows.forEach(({ id, cells }, at) => {
    if (edited.has(id) || taken.has(keyOf(cells))) places.push(at);
  });
  const problems = rowProblems(
    definition,
    places.map((at) => rows[at]?.cells ?? []),
    100,
    (at) => (places[at] ?? 0) + 1,
  );
  return problems.map((problem) => ({ ...problem, rows: problem.rows.map((at) => places[at] ?? 0) }));
}

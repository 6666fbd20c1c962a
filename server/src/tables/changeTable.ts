import {
  applyRowChanges,
  keyText,
  mostRows,
  rowProblems,
  type AskedRowChange,
  type KeptRow,
  type RowChange,
} from '@vast-knot/core';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import { HttpProblem, notFound } from '../http/problem';
import { queueLookAtTable } from './gaps';
import { lockTable, readTable, writeChanges, type KeptTable, type TableChange } from './repository';

/** Changes rows as a whole or not at all: nobody's change is overwritten, and no key is given twice. */
export async function changeTable(
  pool: Pool,
  { name, by, what }: Pick<TableChange, 'by' | 'what'> & { readonly name: string },
  changesFor: (
    table: KeptTable,
    client: Runner,
  ) => readonly AskedRowChange[] | Promise<readonly AskedRowChange[]>,
): Promise<{ readonly done: readonly RowChange[]; readonly table: KeptTable }> {
  return inTransaction(pool, async (client) => {
    await lockTable(client, name);
    const table = await readTable(client, name);
    if (!table) throw notFound(`table “${name}”`);
    let fresh = 0;
    // New rows count down from -1 until the database gives them ids.
    const changes = (await changesFor(table, client)).map(({ id, before, after }): RowChange => ({
      id: id ?? --fresh,
      before,
      after,
    }));
    if (changes.length === 0) return { done: [], table };
    const applied = applyRowChanges(table.rows, changes);
    if ('stale' in applied) throw changedInBetween(table, applied.stale);
    refuseProblems(table, applied.rows);
    const done = await writeChanges(client, name, { by, what, changes });
    await queueLookAtTable(client, name);
    const after = await readTable(client, name);
    return { done, table: after ?? table };
  });
}

function changedInBetween({ definition }: KeptTable, { before, after }: RowChange): HttpProblem {
  const key = keyText(definition, before ?? after ?? []);
  return new HttpProblem(
    409,
    'Changed in between',
    `The row “${key}” was changed by somebody else in between; load the table again.`,
  );
}

/** Refuses rows that are wrong or have a key twice; every one is named. */
export function refuseProblems(
  { definition }: Pick<KeptTable, 'definition'>,
  rows: readonly KeptRow[],
): void {
  if (rows.length > mostRows) {
    throw new HttpProblem(422, 'Too many rows', `A table may have ${mostRows.toLocaleString('en')} rows.`);
  }
  const problems = rowProblems(
    definition,
    rows.map(({ cells }) => cells),
  );
  const [first] = problems;
  if (!first) return;
  const errors = problems.map(({ rows: at, column, message }) => ({
    at: [...at.map((index) => rows[index]?.id ?? index), ...(column === undefined ? [] : [column])].join('/'),
    message,
  }));
  throw new HttpProblem(422, 'Not valid', first.message, errors);
}

import {
  TableIndex,
  type KeptRow,
  type LookupTable,
  type RowChange,
  type TableChangeView,
  type TableDefinition,
} from '@vast-knot/core';
import type { Runner } from '../db/pool';

/** A table as it is kept: its definition, its rows with their ids, and the number of its last change. */
export interface KeptTable {
  readonly definition: TableDefinition;
  readonly rows: readonly KeptRow[];
  readonly revision: number;
}

const selectTables = `SELECT definition, rows, revision FROM tables
  CROSS JOIN LATERAL (SELECT coalesce(json_agg(json_build_object('id', id, 'cells', cells) ORDER BY id), '[]') AS rows
    FROM table_rows WHERE table_name = name) AS r
  CROSS JOIN LATERAL (SELECT coalesce(max(id), 0)::integer AS revision FROM table_changes WHERE table_name = name) AS c`;

/** Returns the tables without their rows. */
export async function summariseTables(
  runner: Runner,
): Promise<{ definition: TableDefinition; rowCount: number; revision: number }[]> {
  const { rows } = await runner.query<{ definition: TableDefinition; rowCount: number; revision: number }>(
    `SELECT definition,
       (SELECT count(*)::integer FROM table_rows WHERE table_name = name) AS "rowCount",
       (SELECT coalesce(max(id), 0)::integer FROM table_changes WHERE table_name = name) AS revision
     FROM tables ORDER BY name`,
  );
  return rows;
}

export async function readTable(runner: Runner, name: string): Promise<KeptTable | undefined> {
  const { rows } = await runner.query<KeptTable>(`${selectTables} WHERE name = $1`, [name]);
  return rows[0];
}

/** Gives a table other settings; its rows stay as they are. */
export async function keepDefinition(runner: Runner, definition: TableDefinition): Promise<void> {
  await runner.query('UPDATE tables SET definition = $2 WHERE name = $1', [
    definition.name,
    JSON.stringify(definition),
  ]);
}

/** Removes a table with its rows and its history. */
export async function removeTable(runner: Runner, name: string): Promise<void> {
  await runner.query('DELETE FROM tables WHERE name = $1', [name]);
}

/** Keeps others from changing the table until the transaction ends. */
export async function lockTable(runner: Runner, name: string): Promise<void> {
  await runner.query('SELECT 1 FROM tables WHERE name = $1 FOR UPDATE', [name]);
}

/** Returns the tables of these names as formulas look them up. */
export async function readTableIndexes(
  runner: Runner,
  names: readonly string[],
): Promise<ReadonlyMap<string, TableIndex>> {
  const { rows } = await runner.query<KeptTable>(`${selectTables} WHERE name = ANY ($1)`, [names]);
  return new Map(rows.map((table) => [table.definition.name, new TableIndex(toLookupTable(table))]));
}

/** Returns the table as formulas look it up. */
function toLookupTable({ definition, rows }: KeptTable): LookupTable {
  return { ...definition, rows: rows.map(({ cells }) => cells) };
}

export async function insertTable(runner: Runner, table: LookupTable): Promise<void> {
  const { rows, ...definition } = table;
  await runner.query('INSERT INTO tables (name, definition) VALUES ($1, $2)', [
    table.name,
    JSON.stringify(definition),
  ]);
  await insertRows(
    runner,
    table.name,
    rows.map((row) => JSON.stringify(row)),
  );
}

/** Adds rows in their order. Returns their ids. */
async function insertRows(runner: Runner, name: string, rows: readonly string[]): Promise<number[]> {
  if (rows.length === 0) return [];
  const { rows: made } = await runner.query<{ id: number }>(
    `INSERT INTO table_rows (table_name, cells)
     SELECT $1, cells::jsonb FROM unnest($2::text[]) WITH ORDINALITY AS given (cells, at) ORDER BY at
     RETURNING id::integer`,
    [name, rows],
  );
  return made.map(({ id }) => id);
}

/** Changes of rows that belong together: who made them, and what they are in a few words. */
export interface TableChange {
  readonly by: string;
  readonly what: string;
  readonly changes: readonly RowChange[];
}

/** Applies changes that were checked; new rows (id below zero) get ids. Returns the changes as they were done. */
export async function writeChanges(
  runner: Runner,
  name: string,
  { by, what, changes }: TableChange,
): Promise<readonly RowChange[]> {
  const added = changes.filter(({ before }) => before === null);
  const removed = changes.filter(({ after }) => after === null);
  const changed = changes.filter(({ before, after }) => before !== null && after !== null);
  const returning = added.filter(({ id }) => id > 0);
  const fresh = added.filter(({ id }) => id <= 0);
  if (removed.length > 0) {
    await runner.query('DELETE FROM table_rows WHERE table_name = $1 AND id = ANY($2)', [
      name,
      removed.map(({ id }) => id),
    ]);
  }
  if (changed.length > 0) {
    await runner.query(
      `UPDATE table_rows SET cells = given.cells::jsonb FROM unnest($2::bigint[], $3::text[]) AS given (id, cells)
       WHERE table_name = $1 AND table_rows.id = given.id`,
      [name, changed.map(({ id }) => id), changed.map(({ after }) => JSON.stringify(after))],
    );
  }
  if (returning.length > 0) {
    // A removed row that is restored comes back under its own id, and so to its own place.
    await runner.query(
      `INSERT INTO table_rows (table_name, id, cells) OVERRIDING SYSTEM VALUE
       SELECT $1, id, cells::jsonb FROM unnest($2::bigint[], $3::text[]) AS given (id, cells)`,
      [name, returning.map(({ id }) => id), returning.map(({ after }) => JSON.stringify(after))],
    );
  }
  const ids = await insertRows(
    runner,
    name,
    fresh.map(({ after }) => JSON.stringify(after)),
  );
  const done = [
    ...removed,
    ...changed,
    ...returning,
    ...fresh.map((change, at): RowChange => ({ ...change, id: ids[at] ?? 0 })),
  ];
  await runner.query('INSERT INTO table_changes (table_name, by, what, changes) VALUES ($1, $2, $3, $4)', [
    name,
    by,
    what,
    JSON.stringify(done),
  ]);
  return done;
}

/** Returns who changed the settings or columns of a table after one of its changes, the last one; undefined where nobody did. */
export async function definedSince(
  runner: Runner,
  name: string,
  revision: number,
): Promise<{ readonly by: string; readonly at: Date } | undefined> {
  const { rows } = await runner.query<{ by: string; at: Date }>(
    `SELECT by, at FROM table_changes WHERE table_name = $1 AND id > $2 AND what IN ('Settings', 'Columns', 'Import', 'Import taken back')
     ORDER BY id DESC LIMIT 1`,
    [name, revision],
  );
  return rows[0];
}

export async function listChanges(runner: Runner, name: string): Promise<TableChangeView[]> {
  const { rows } = await runner.query<TableChangeView>(
    `SELECT id::integer, at, by, what,
       (SELECT count(*)::integer FROM jsonb_array_elements(changes) AS c WHERE c->'before' = 'null') AS added,
       (SELECT count(*)::integer FROM jsonb_array_elements(changes) AS c WHERE c->'before' <> 'null' AND c->'after' <> 'null') AS changed,
       (SELECT count(*)::integer FROM jsonb_array_elements(changes) AS c WHERE c->'after' = 'null') AS removed,
       (SELECT coalesce(jsonb_agg(c), '[]') FROM (SELECT c FROM jsonb_array_elements(changes) AS c LIMIT 20) AS shown) AS first
     FROM table_changes WHERE table_name = $1 ORDER BY id DESC LIMIT 200`,
    [name],
  );
  return rows;
}

/** Returns the changes from one on, the last first: taking them back leads to the state before it. */
export async function changesSince(
  runner: Runner,
  name: string,
  id: number,
): Promise<readonly RowChange[][]> {
  const { rows } = await runner.query<{ changes: RowChange[] }>(
    'SELECT changes FROM table_changes WHERE table_name = $1 AND id >= $2 ORDER BY id DESC',
    [name, id],
  );
  return rows.map(({ changes }) => changes);
}

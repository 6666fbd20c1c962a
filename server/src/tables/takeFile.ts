import {
  compareRows,
  readTableFile,
  type AskedRowChange,
  type ImportPreview,
  type Row,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { HttpProblem, notFound } from '../http/problem';
import { changeTable } from './changeTable';
import { readTable, type KeptTable } from './repository';

/** Rows shown in the preview of a file, of each kind. */
const previewed = 200;
/** So many problems of a file are named; how many there are is told. */
const mostProblems = 100;

/** What is asked of a file of rows: to look at it beside a table, or to take it into one that is as it was seen. */
export type FileAsked =
  | { readonly do: 'look'; readonly name: string }
  | {
      readonly do: 'take';
      readonly name: string;
      readonly revision: number;
      /** Takes out the rows that the file does not have. */
      readonly removes: boolean;
      readonly by: string;
    };

/** A file as it comes: its bytes, part by part. */
export type Parts = AsyncIterable<Uint8Array>;

/** Does what is asked of a file. Returns what it would do, or how many rows were changed. Throws an HttpProblem with what is wrong in it. */
export async function doWithFile(
  pool: Pool,
  asked: FileAsked,
  parts: Parts,
): Promise<ImportPreview | { readonly changes: number }> {
  const table = await readTable(pool, asked.name);
  if (!table) throw notFound(`table “${asked.name}”`);
  if (asked.do === 'look') return look(table, await rowsOf(table, parts));
  // Whoever sends slowly holds up nobody: the table is held only once the file is here.
  if (table.revision !== asked.revision) throw moved();
  return take(pool, asked, await rowsOf(table, parts));
}

const moved = () =>
  new HttpProblem(412, 'Changed in between', 'The table was changed since the preview; look at it again.');

function look(table: KeptTable, rows: readonly Row[]): ImportPreview {
  const { added, changed, removed, same } = compareRows(table.definition, table.rows, rows);
  return {
    revision: table.revision,
    added: added.slice(0, previewed),
    changed: changed.slice(0, previewed).map(({ row, after }) => ({ before: row.cells, after })),
    removed: removed.slice(0, previewed).map(({ cells }) => cells),
    counts: { added: added.length, changed: changed.length, removed: removed.length, same },
  };
}

/** What was looked at is what is done: the table must be as it was then. */
async function take(
  pool: Pool,
  { name, revision, removes, by }: Extract<FileAsked, { do: 'take' }>,
  rows: readonly Row[],
): Promise<{ readonly changes: number }> {
  const change = { name, by, what: 'Imported from a file' };
  const { done } = await changeTable(pool, change, (table): readonly AskedRowChange[] => {
    if (table.revision !== revision) throw moved();
    const { added, changed, removed } = compareRows(table.definition, table.rows, rows);
    return [
      ...(removes ? removed.map((row) => ({ id: row.id, before: row.cells, after: null })) : []),
      ...changed.map(({ row, after }) => ({ id: row.id, before: row.cells, after })),
      ...added.map((after) => ({ id: null, before: null, after })),
    ];
  });
  return { changes: done.length };
}

async function rowsOf({ definition }: KeptTable, parts: Parts): Promise<readonly Row[]> {
  const read = await readTableFile(definition, textOf(parts));
  if (read.ok) return read.rows;
  const { problems } = read;
  const [first] = problems;
  const errors = problems.slice(0, mostProblems).map(({ rows, column, message }) => ({
    at: [...rows, column ?? ''].join('/'),
    message,
  }));
  const more =
    problems.length > mostProblems
      ? ` There are ${problems.length.toLocaleString('en')} problems; the first ${mostProblems} are named.`
      : '';
  throw new HttpProblem(422, 'Not valid', `${first?.message ?? 'The file cannot be read.'}${more}`, errors);
}

/** Returns bytes as the text that they are in UTF-8, also where a character stands in two parts. */
async function* textOf(parts: Parts): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  for await (const part of parts) yield decoder.decode(part, { stream: true });
  yield decoder.decode();
}

import {
  isBlankJson,
  isLongNumber,
  qualified,
  quoted,
  scalarText,
  type Json,
  type JsonObject,
  type SearchCondition,
  type TableStyle,
} from '@vast-knot/core';
import type { Statement } from './database';

/** A table with the columns that are read of it. */
export interface Table {
  readonly style: TableStyle;
  readonly key: string;
  readonly columns: readonly string[];
}

/** How a row tells its version, as text; `t` is the table. */
function versionOf({ style: { version } }: Table): string {
  switch (version.kind) {
    case 'row':
      return 't.xmin::text';
    case 'field':
      return `t.${quoted(version.field)}::text`;
    case 'none':
      return 'NULL::text';
  }
}

/** What a row is read as: its version, then its columns. */
const read = (table: Table) =>
  [versionOf(table), ...table.columns.map((column) => `t.${quoted(column)}`)].join(', ');

/** Reads rows in the order of their keys, those after one of them; `since`, those that changed since then. */
export function pageStatement(
  table: Table,
  {
    after,
    limit,
    conditions = [],
    since,
    search,
  }: {
    readonly after?: string | undefined;
    readonly limit: number;
    readonly conditions?: readonly SearchCondition[];
    readonly since?: { readonly field: string; readonly from: string } | undefined;
    /** Text that one of some columns has in it. */
    readonly search?: { readonly text: string; readonly columns: readonly string[] } | undefined;
  },
): Statement {
  const values: unknown[] = [];
  const put = (value: unknown) => `$${values.push(value)}`;
  const key = `t.${quoted(table.key)}`;
  const where = [
    after === undefined ? `${key} IS NOT NULL` : `${key} > ${put(after)}`,
    ...(since ? [`t.${quoted(since.field)} >= ${put(since.from)}`] : []),
    ...conditions.map(({ field, values: wanted }) => conditionOf(field, wanted, put)),
    ...(search ? [searchOf(search, put)] : []),
  ];
  return {
    sql: `SELECT ${read(table)} FROM ${qualified(table.style)} AS t WHERE ${where.join(' AND ')} ORDER BY ${key} LIMIT ${put(limit)}`,
    values,
    shown: {
      ...(after !== undefined && { after: { [table.key]: after } }),
      ...(since && { since: { [since.field]: since.from } }),
      ...(search && Object.fromEntries(search.columns.map((column) => [column, search.text]))),
      ...Object.fromEntries(conditions.map(({ field, values: wanted }) => [field, [...wanted]])),
      limit,
    },
  };
}

function conditionOf(field: string, wanted: readonly Json[], put: (value: unknown) => string): string {
  const column = `t.${quoted(field)}`;
  const isBlank = wanted.some(isBlankJson);
  // A column holds no lists and objects.
  const isScalar = (value: Json) => typeof value !== 'object' || isLongNumber(value);
  const texts = wanted.filter((value) => !isBlankJson(value) && isScalar(value)).map(scalarText);
  const some = texts.length === 0 ? [] : [`${column} = ANY (${put(texts)})`];
  const none = isBlank ? [`${column} IS NULL`, `${column}::text = ''`] : [];
  return `(${[...some, ...none].join(' OR ') || 'false'})`;
}

function searchOf(
  { text, columns }: { readonly text: string; readonly columns: readonly string[] },
  put: (value: unknown) => string,
): string {
  const pattern = put(`%${text.replace(/[\\%_]/g, '\\$&')}%`);
  return `(${columns.map((column) => `t.${quoted(column)}::text ILIKE ${pattern}`).join(' OR ')})`;
}

/** One of several changes of rows. */
export interface RowEdit {
  readonly key: string;
  readonly version: string | undefined;
  readonly before: JsonObject;
  readonly set: JsonObject;
}

/**
 * Changes rows that are still as they were planned for, in one statement. It gives for each edit, by its number from 1: whether it was
 * made, then the row as it is by then. An edit that gives nothing has no row. Of edits of one row only one may be in it.
 */
export function updateStatement(table: Table, edits: readonly RowEdit[], printed: string): Statement {
  const { style, key } = table;
  const name = qualified(style);
  const columns = [...new Set(edits.flatMap(({ set }) => Object.keys(set)))];
  const { version } = style;
  const counted =
    version.kind === 'field' && version.counted && !columns.includes(version.field) ? [version.field] : [];
  const sets = [
    ...columns.map(
      (column) =>
        `${quoted(column)} = CASE WHEN asked.item->'set' ? ${literal(column)} THEN s.${quoted(column)} ELSE t.${quoted(column)} END`,
    ),
    ...counted.map((column) => `${quoted(column)} = t.${quoted(column)} + 1`),
  ];
  // What can be compared is compared where nothing tells the version of a row.
  const same = columns.map(
    (column) =>
      `(NOT asked.item->'before' ? ${literal(column)} OR t.${quoted(column)} IS NOT DISTINCT FROM b.${quoted(column)})`,
  );
  const guard =
    version.kind === 'none'
      ? same
      : [`(asked.item->>'version' IS NULL OR ${versionOf(table)} = asked.item->>'version')`];
  return {
    sql: `WITH asked AS MATERIALIZED (
  SELECT e.at, e.item, k.${quoted(key)} AS key
  FROM jsonb_array_elements($1::jsonb) WITH ORDINALITY AS e (item, at),
    LATERAL jsonb_populate_record(NULL::${name}, e.item->'key') AS k
), done AS (
  UPDATE ${name} AS t SET ${sets.join(', ')}
  FROM asked, LATERAL jsonb_populate_record(NULL::${name}, asked.item->'set') AS s,
    LATERAL jsonb_populate_record(NULL::${name}, asked.item->'before') AS b
  WHERE ${[`t.${quoted(key)} = asked.key`, ...guard].join(' AND ')}
  RETURNING asked.at, true, ${read(table)}
)
SELECT * FROM done
UNION ALL
SELECT asked.at, false, ${read(table)} FROM asked JOIN ${name} AS t ON t.${quoted(key)} = asked.key
WHERE asked.at NOT IN (SELECT at FROM done)`,
    values: [printed],
    shown: edits.map(({ key: id, set }) => ({ [key]: id, ...set })),
  };
}

/** Creates a row, and gives it as it is then. */
export function insertStatement(table: Table, record: JsonObject, printed: string): Statement {
  const name = qualified(table.style);
  const columns = Object.keys(record).map(quoted);
  const what =
    columns.length === 0
      ? 'DEFAULT VALUES'
      : `(${columns.join(', ')}) SELECT ${columns.map((column) => `p.${column}`).join(', ')} FROM jsonb_populate_record(NULL::${name}, $1::jsonb) AS p`;
  return {
    sql: `INSERT INTO ${name} AS t ${what} RETURNING ${read(table)}`,
    values: columns.length === 0 ? [] : [printed],
    shown: record,
  };
}

/** Removes a row that is still as it was planned for. It gives the row that is left, where one is. */
export function deleteStatement(table: Table, id: string, version: string | undefined): Statement {
  const name = qualified(table.style);
  const key = `t.${quoted(table.key)}`;
  const guard = version === undefined ? '' : ` AND ${versionOf(table)} = $2`;
  return {
    sql: `WITH gone AS (DELETE FROM ${name} AS t WHERE ${key} = $1${guard} RETURNING ${key})
SELECT ${read(table)} FROM ${name} AS t WHERE ${key} = $1 AND NOT EXISTS (SELECT FROM gone)`,
    values: [id, ...(version === undefined ? [] : [version])],
    shown: { [table.key]: id },
  };
}

/** Gives no rows, and the types of the columns. */
export function columnsStatement(table: Table): Statement {
  return { sql: `SELECT ${read(table)} FROM ${qualified(table.style)} AS t LIMIT 0` };
}

const literal = (text: string) => `'${text.replaceAll("'", "''")}'`;

import { Temporal } from 'temporal-polyfill';
import type { Json } from '../model/json';
import { scalarText } from '../model/jsonText';
import { isLongNumber } from '../model/longNumber';
import { joinKeys, keyColumns, keyText } from './key';
import type { ColumnType, Row, TableDefinition } from './table';

/** What is wrong with a table: the rows that it is about, counted from 0, and a sentence that names them as people count. */
export interface TableProblem {
  readonly rows: readonly number[];
  readonly column?: string;
  readonly message: string;
}

/** Mistakes in the definition itself. */
export function definitionProblems(definition: TableDefinition): readonly TableProblem[] {
  const problems: TableProblem[] = [];
  const note = (message: string) => problems.push({ rows: [], message });
  const { columns, validity, matching, onMiss, defaultRow } = definition;
  for (const name of validity ? [validity.from, validity.to] : []) {
    const column = columns.find((each) => each.name === name);
    if (column?.type !== 'date' || column.key) {
      note(`“${name}” is to hold validity dates; it must be a date column that is no key.`);
    }
  }
  if (columns.every(({ key }) => key)) note('A table needs a column that is no key.');
  const last = columns[keyColumns(definition).at(-1) ?? -1];
  if (matching === 'range' && last?.type === 'boolean') {
    note(`“${last.label}” is yes or no and cannot be the lower bound of a range.`);
  }
  if (onMiss === 'default' && defaultRow?.length !== columns.length) {
    note('The default row needs a value for each column.');
  }
  return problems;
}

/**
 * Cells of another type than their column, blank keys, and keys that two rows have. At most `most` are named; `numberOf`
 * says how people count the rows, where these are not all there are.
 */
export function rowProblems(
  definition: TableDefinition,
  rows: readonly Row[],
  most = 100,
  numberOf = (at: number) => at + 1,
): readonly TableProblem[] {
  const problems: TableProblem[] = [];
  const { columns } = definition;
  const keys = keyColumns(definition);
  const seen = new Map<string, number[]>();
  rows.forEach((row, at) => {
    if (problems.length >= most) return;
    if (row.length !== columns.length) {
      problems.push({
        rows: [at],
        message: `Row ${numberOf(at)} has ${row.length} values for ${columns.length} columns.`,
      });
      return;
    }
    columns.forEach((column, index) => {
      const wrong = cellProblem(column.type, row[index] ?? null);
      if (!wrong) return;
      const message = `Row ${numberOf(at)}, “${column.label}”: ${wrong}`;
      problems.push({ rows: [at], column: column.name, message });
    });
    if (keys.every((index) => row[index] === null || row[index] === '')) {
      problems.push({ rows: [at], message: `Row ${numberOf(at)} has no key.` });
      return;
    }
    const key = joinKeys(
      keys.map((index) => row[index]),
      definition.matching === 'caseless',
    );
    const rivals = seen.get(key);
    if (!rivals) seen.set(key, [at]);
    else {
      const rival = rivals.find((other) => overlap(definition, rows[other] ?? [], row));
      if (rival !== undefined) {
        const when = definition.validity ? ', on some of the same days' : '';
        const message = `Rows ${numberOf(rival)} and ${numberOf(at)} have the same key “${keyText(definition, row)}”${when}.`;
        problems.push({ rows: [rival, at], message });
      }
      rivals.push(at);
    }
  });
  return problems;
}

/** Returns why a cell does not fit its column; undefined when it does. Blank fits everywhere. */
function cellProblem(type: ColumnType, value: Json): string | undefined {
  if (value === null || value === '') return undefined;
  const shown = `“${scalarText(value)}”`;
  switch (type) {
    case 'text':
      return typeof value === 'string' ? undefined : `${shown} is not text.`;
    case 'integer':
      return Number.isSafeInteger(value) || (isLongNumber(value) && /^-?\d+$/.test(value.$number))
        ? undefined
        : `${shown} is not a whole number.`;
    case 'decimal':
      return (typeof value === 'number' && Number.isFinite(value)) || isLongNumber(value)
        ? undefined
        : `${shown} is not a number.`;
    case 'boolean':
      return typeof value === 'boolean' ? undefined : `${shown} is neither true nor false.`;
    case 'date':
      return typeof value === 'string' && isIsoDate(value)
        ? undefined
        : `${shown} is not a date such as 2026-03-09.`;
  }
}

function isIsoDate(text: string): boolean {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) return false;
  try {
    return Temporal.PlainDate.from(text).toString() === text;
  } catch {
    // The 31st of February.
    return false;
  }
}

/** Returns whether two rows of one key hold on a common day; always, in a table without validity dates. */
function overlap({ columns, validity }: TableDefinition, a: Row, b: Row): boolean {
  if (!validity) return true;
  const from = columns.findIndex(({ name }) => name === validity.from);
  const to = columns.findIndex(({ name }) => name === validity.to);
  const startsBeforeEnd = (x: Row, y: Row) => !x[from] || !y[to] || String(x[from]) <= String(y[to]);
  return startsBeforeEnd(a, b) && startsBeforeEnd(b, a);
}

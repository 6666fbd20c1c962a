import Papa from 'papaparse';
import { scalarText, printJson } from '../../model/jsonText';
import { isLongNumber } from '../../model/longNumber';
import type { Json } from '../../model/json';
import { guardedCell } from '../csv';
import type { RowWriter } from './rowWriter';

/** Rows that are written as one part. */
const atOnce = 500;

/** How a table is written as text. */
interface TableMarks {
  readonly delimiter: string;
  readonly quote: string;
}

/** CSV as RFC 4180 has it, in UTF-8 with the mark by which spreadsheets know it. */
export const csvWriter: RowWriter = {
  kind: 'csv',
  name: 'CSV',
  mediaType: 'text/csv; charset=utf-8',
  ending: '.csv',
  async *write({ columns, rows, guard = false }) {
    const lines = textLines(
      columns.map(({ label }) => label),
      rows,
      { delimiter: ',', quote: '"' },
      guard ? guardedCell : undefined,
    );
    for await (const text of lines) yield new TextEncoder().encode(text);
  },
};

/** Returns a table as text, some rows at a time. */
export async function* textLines(
  titles: readonly string[],
  rows: AsyncIterable<readonly Json[]>,
  { delimiter, quote }: TableMarks,
  guard: (cell: string) => string = (cell) => cell,
): AsyncGenerator<string> {
  const text = (lines: readonly (readonly string[])[]) =>
    `${Papa.unparse(
      lines.map((line) => line.map(guard)),
      { newline: '\r\n', delimiter, quoteChar: quote },
    )}\r\n`;
  let held: (readonly string[])[] = [titles];
  let written = '\ufeff';
  for await (const row of rows) {
    held.push(row.map(cellText));
    if (held.length < atOnce) continue;
    yield written + text(held);
    written = '';
    held = [];
  }
  if (held.length > 0) yield written + text(held);
}

/** Returns a value as the text of a cell: several values after one another, an object as JSON. */
export function cellText(json: Json): string {
  if (
    Array.isArray(json) &&
    json.every((part) => typeof part !== 'object' || part === null || isLongNumber(part))
  )
    return json.map(scalarText).join('; ');
  return typeof json === 'object' && json !== null && !isLongNumber(json)
    ? printJson(json)
    : scalarText(json);
}

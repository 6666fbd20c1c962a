import { readCsv, writeCsv, type Csv } from '../formats/csv';
import { linesOf } from '../formats/csvLines';
import { readCell, showCell } from './cell';
import { rowProblems, type TableProblem } from './problems';
import type { Row, TableDefinition } from './table';

/** Rows read from a file, or every mistake in it with its line. */
type TableCsv =
  | { readonly ok: true; readonly rows: readonly Row[] }
  | { readonly ok: false; readonly problems: readonly TableProblem[] };

/**
 * Reads CSV (RFC 4180) whose first line names the columns, by API name or label and in any order; columns that the file
 * lacks are left blank. Nothing is taken when any row has a mistake.
 */
export function readTableCsv(definition: TableDefinition, text: string): TableCsv {
  return rowsOf(definition, readCsv(text));
}

/** The same of a file that comes part by part. */
export async function readTableFile(
  definition: TableDefinition,
  chunks: AsyncIterable<string>,
): Promise<TableCsv> {
  const lines: (readonly string[])[] = [];
  let problem: string | undefined;
  const read = linesOf(chunks, (message, line) => {
    problem ??= `This is not CSV in line ${line}: ${message}.`;
  });
  for await (const some of read) {
    if (problem !== undefined) break;
    for (const line of some) if (line.length > 1 || line[0] !== '') lines.push(line);
  }
  if (problem === undefined && lines.length === 0) problem = 'The file is empty.';
  return rowsOf(definition, problem === undefined ? { lines } : { problem });
}

function rowsOf(definition: TableDefinition, parsed: Csv): TableCsv {
  if ('problem' in parsed) return { ok: false, problems: [{ rows: [], message: parsed.problem }] };
  const [head = [], ...lines] = parsed.lines;
  const problems: TableProblem[] = [];
  const positions = definition.columns.map(({ name, label }) =>
    head.findIndex((title) => [name, label].some((known) => same(known, title))),
  );
  head.forEach((title, at) => {
    if (positions.includes(at)) return;
    problems.push({ rows: [], message: `The table has no column “${title}”, which the file has.` });
  });
  definition.columns.forEach((column, at) => {
    if (column.key && positions[at] === -1) {
      problems.push({ rows: [], message: `The file has no column “${column.name}”, which is a key.` });
    }
  });
  if (problems.length > 0) return { ok: false, problems };
  lines.forEach((line, at) => {
    if (line.length !== head.length) {
      problems.push({
        rows: [at],
        message: `Row ${at + 1} has ${line.length} values where the first line names ${head.length} columns.`,
      });
    }
  });
  if (problems.length > 0) return { ok: false, problems };
  const rows = lines.map((line) =>
    definition.columns.map((column, at) => readCell(column.type, line[positions[at] ?? -1] ?? '')),
  );
  const wrong = rowProblems(definition, rows, Number.POSITIVE_INFINITY);
  return wrong.length > 0 ? { ok: false, problems: wrong } : { ok: true, rows };
}

/** Returns the rows as CSV with the API names of the columns in the first line; `asWritten` says how the text of a cell is put down. */
export function writeTableCsv(
  definition: TableDefinition,
  rows: readonly Row[],
  asWritten = (cell: string) => cell,
): string {
  return writeCsv([
    definition.columns.map(({ name }) => name),
    ...rows.map((row) => row.map((cell) => asWritten(showCell(cell)))),
  ]);
}

function same(a: string, b: string): boolean {
  return a.trim().toLowerCase() === b.trim().toLowerCase();
}

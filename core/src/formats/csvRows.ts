import Papa from 'papaparse';
import { delimiterOf } from './csv';
import { LineEnds } from './lineEnds';
import type { FileRow, RowReader } from './rowReader';

/** Reads CSV as RFC 4180 has it, with a first line of titles. */
export const csvRows: RowReader = {
  name: 'CSV',
  mediaTypes: ['text/csv'],
  endings: ['.csv', '.tsv', '.txt'],

  async *read(chunks) {
    let titles: readonly string[] | undefined;
    let number = 0;
    for await (const cells of linesOf(chunks)) {
      number++;
      if (cells.length === 1 && cells[0] === '') continue;
      if (!titles) titles = cells.map((title) => title.trim());
      else yield rowOf(titles, cells, number);
    }
  },
};

function rowOf(titles: readonly string[], cells: readonly string[], at: number): FileRow {
  const place = `row ${at}`;
  if (cells.length !== titles.length) {
    const because = `it has ${cells.length} cells, and the first row has ${titles.length}.`;
    return { ok: false, at, place, because, text: cells.join(',') };
  }
  return {
    ok: true,
    at,
    place,
    cells: Object.fromEntries(titles.map((title, column) => [title, cells[column] ?? ''])),
  };
}

/** What the package says of a text that it went through. */
interface Parsed {
  readonly data: readonly (readonly string[])[];
  readonly errors: readonly { readonly row?: number; readonly message: string }[];
  readonly meta: { readonly cursor: number };
}

/**
 * Returns the lines of a file; what is left of a line at the end of a chunk is read with the next one. `wrong` hears of what is no CSV, with
 * the line before it.
 */
export async function* linesOf(
  chunks: AsyncIterable<string>,
  wrong: (message: string, line: number) => void = () => undefined,
): AsyncGenerator<readonly string[]> {
  let before = 0;
  const told = ({ data, errors }: Parsed) => {
    for (const { row = 0, message } of errors) wrong(message, before + row + 1);
    before += data.length;
    return data;
  };
  let rest = '';
  let parser: Papa.Parser | undefined;
  const ends = new LineEnds();
  for await (const chunk of chunks) {
    rest += ends.take(chunk);
    // Which mark the file uses is seen once its first line has ended.
    if (!parser && rest.includes('\n')) {
      rest = rest.replace(/^\ufeff/, '');
      parser = parserFor(rest);
    }
    if (!parser) continue;
    const parsed = parser.parse(rest, 0, true) as Parsed;
    rest = rest.slice(parsed.meta.cursor);
    yield* told(parsed);
  }
  rest += ends.end();
  if (parser === undefined) rest = rest.replace(/^\ufeff/, '');
  if (rest !== '') yield* told((parser ?? parserFor(rest)).parse(rest, 0, false) as Parsed);
}

/** Reads with the mark that the beginning of a file uses: comma, semicolon or tab. */
function parserFor(beginning: string): Papa.Parser {
  return new Papa.Parser({ delimiter: delimiterOf(beginning), newline: '\n' });
}

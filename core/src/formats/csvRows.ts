import Papa from 'papaparse';
import { delimiterOf } from './csv';
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
  readonly meta: { readonly cursor: number };
}

/** Returns the lines of a file; what is left of a line at the end of a chunk is read with the next one. */
async function* linesOf(chunks: AsyncIterable<string>): AsyncGenerator<readonly string[]> {
  let rest = '';
  let parser: Papa.Parser | undefined;
  for await (const chunk of chunks) {
    rest += chunk;
    // Which marks the file uses is seen once its first line has ended, and what comes after a return.
    if (!parser && /\n|\r[^]/.test(rest)) {
      rest = rest.replace(/^\ufeff/, '');
      parser = parserFor(rest);
    }
    if (!parser) continue;
    const { data, meta } = parser.parse(rest, 0, true) as Parsed;
    rest = rest.slice(meta.cursor);
    yield* data;
  }
  if (parser === undefined) rest = rest.replace(/^\ufeff/, '');
  if (rest !== '') yield* ((parser ?? parserFor(rest)).parse(rest, 0, false) as Parsed).data;
}

/** Reads with the marks that the beginning of a file uses: comma, semicolon or tab, and the end of its lines. */
function parserFor(beginning: string): Papa.Parser {
  const [newline] = /\r\n|\n|\r/.exec(beginning) ?? ['\n'];
  const delimiter = delimiterOf(beginning);
  return new Papa.Parser({ delimiter, newline: newline as '\r\n' | '\n' | '\r' });
}

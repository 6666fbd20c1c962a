import Joi from 'joi';
import Papa from 'papaparse';
import { linesOf } from '../csvLines';
import { beginningAsText, Decoding, encodingSchema, notInEncoding, type Encoding } from './text';
import { cellText, textLines } from '../written/csvWriter';
import {
  columnAddress,
  headsSchema,
  recordsOfTable,
  resultLines,
  shownRow,
  type Heads,
  type TableLine,
} from './table';
import type { FileFormat, FormatSettings } from './format';

/** What stands between two cells, with what people call it. */
export const delimiters = [
  { value: ',', label: 'comma' },
  { value: ';', label: 'semicolon' },
  { value: '\t', label: 'tab' },
  { value: '|', label: 'bar' },
] as const;

/** How a CSV file is written. */
export interface CsvSettings extends FormatSettings, Heads {
  readonly kind: 'csv';
  readonly encoding: Encoding;
  readonly delimiter: (typeof delimiters)[number]['value'];
  /** What stands around a cell that holds a delimiter or a line end. */
  readonly quote: '"' | "'";
}

/** Files of rows as RFC 4180 has them, also with another delimiter, another quote, or other line ends. */
export const csvFile: FileFormat<CsvSettings> = {
  kind: 'csv',
  name: 'CSV',
  mediaTypes: ['text/csv', 'text/tab-separated-values'],
  endings: ['.csv', '.tsv', '.txt'],
  example: 'Title of a column',
  usual: { kind: 'csv', encoding: 'utf-8', delimiter: ',', quote: '"', headAt: 1, headLines: 1 },
  settings: Joi.object<CsvSettings>({
    kind: Joi.valid('csv').required(),
    encoding: encodingSchema.required(),
    delimiter: Joi.valid(...delimiters.map(({ value }) => value)).required(),
    quote: Joi.valid('"', "'").required(),
    ...headsSchema,
  }),

  recognise({ bytes, name }) {
    const { text, encoding } = beginningAsText(bytes);
    const found = marksOf(text);
    const isNamed = this.endings.some((ending) => name.toLowerCase().endsWith(ending));
    if (found.columns < 2 && !isNamed) return undefined;
    const { columns: _columns, ...marks } = found;
    return { kind: 'csv', encoding, ...marks, headLines: 1 };
  },

  read: (bytes, settings) => recordsOfTable(linesIn(bytes, settings), settings),
  async *result(rows, { delimiter, quote }) {
    const encoder = new TextEncoder();
    const lines = resultLines(rows);
    const first = await lines.next();
    const titles = first.done === true ? [] : first.value;
    for await (const text of textLines(titles.map(cellText), lines, { delimiter, quote }))
      yield encoder.encode(text);
  },
  address: columnAddress,
  shown: shownRow,
};

/** Lines of a beginning by which it is judged how the file is written. */
const judged = 30;

/** Returns how a beginning is parted into cells: so that most of its lines have the same number of them, and then so that they have many. */
function marksOf(
  text: string,
): Pick<CsvSettings, 'delimiter' | 'quote' | 'headAt'> & { readonly columns: number } {
  const quote = /^\s*'[^']*'[,;|\t]/.test(text) ? "'" : '"';
  const even = text.replaceAll(/\r\n?/g, '\n');
  const tried = delimiters.map(({ value: delimiter }) => {
    const { data } = Papa.parse<string[]>(even, {
      delimiter,
      preview: judged,
      newline: '\n',
      quoteChar: quote,
    });
    const counts = data.map(({ length }) => length);
    const alike = (count: number) => counts.filter((each) => each === count).length;
    const columns = counts.reduce(
      (best, each) => (each > 1 && alike(each) > (best > 1 ? alike(best) : 0) ? each : best),
      1,
    );
    return { delimiter, data, columns, alike: columns > 1 ? alike(columns) : 0 };
  });
  const best = tried.reduce((one, other) =>
    other.alike > one.alike || (other.alike === one.alike && other.columns > one.columns) ? other : one,
  );
  const isWide = (line: readonly string[]) => line.length === best.columns;
  // What a spreadsheet puts above its titles stands in one cell of a line.
  const whole = best.data.findIndex((line) => isWide(line) && line.every((cell) => cell.trim() !== ''));
  const at = Math.max(0, whole === -1 ? best.data.findIndex(isWide) : whole);
  const titles = (best.data[at] ?? []).map((title) => title.trim());
  // A line with numbers in it is no line of titles.
  const headAt = titles.some((title) => /^-?\d+([.,]\d+)?$/.test(title)) ? 0 : at + 1;
  return { delimiter: best.delimiter, quote, headAt, columns: best.columns };
}

async function* linesIn(
  bytes: AsyncIterable<Uint8Array>,
  settings: CsvSettings,
): AsyncGenerator<readonly TableLine[]> {
  const { encoding, delimiter, quote } = settings;
  const wrongs = new Map<number, string>();
  const told = (message: string, line: number) => wrongs.set(line, `It is no CSV: ${message}.`);
  let at = 0;
  const decoding = new Decoding(encoding);
  for await (const lines of linesOf(decoding.text(bytes), told, { delimiter, quote })) {
    yield lines.map((cells): TableLine => {
      at++;
      const unclear = cells.some((cell) => decoding.isUnclear(cell)) ? notInEncoding(encoding) : undefined;
      const wrong = wrongs.get(at) ?? unclear;
      wrongs.delete(at);
      // A line with nothing in it is no row of one empty cell.
      return {
        at,
        cells: cells.length === 1 && cells[0] === '' ? [] : cells,
        ...(wrong !== undefined && { wrong }),
      };
    });
  }
}

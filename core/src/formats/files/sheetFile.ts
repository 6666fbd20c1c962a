import { unzipSync } from 'fflate';
import Joi from 'joi';
import readSheets, { type Sheet } from 'read-excel-file/universal';
import type { Json } from '../../model/json';
import { cellText } from '../written/csvWriter';
import { sheetWriter } from '../written/sheetWriter';
import {
  columnAddress,
  headsSchema,
  recordsOfTable,
  resultLines,
  shownRow,
  type Heads,
  type TableLine,
} from './table';
import { isWorkbook } from './unpacked';
import type { FileFormat, FormatSettings } from './format';

/** How a sheet of a workbook is read. */
export interface SheetSettings extends FormatSettings, Heads {
  readonly kind: 'xlsx';
  /** Its name; blank for the first. */
  readonly sheet: string;
}

/** A workbook is read as a whole, so it may unpack into no more bytes than these. */
const mostBytes = 200_000_000;

/** Workbooks (XLSX, ISO/IEC 29500): the rows of one sheet. */
export const sheetFile: FileFormat<SheetSettings> = {
  kind: 'xlsx',
  name: 'XLSX',
  mediaTypes: ['application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'],
  endings: ['.xlsx'],
  example: 'Title of a column',
  usual: { kind: 'xlsx', sheet: '', headAt: 1, headLines: 1 },
  settings: Joi.object<SheetSettings>({
    kind: Joi.valid('xlsx').required(),
    sheet: Joi.string().allow('').max(100).required(),
    ...headsSchema,
  }),
  recognise: ({ bytes }) =>
    isWorkbook(bytes) ? { kind: 'xlsx', sheet: '', headAt: 1, headLines: 1 } : undefined,
  read: async function* (bytes, settings) {
    const sheets = await sheetsIn(bytes);
    if (typeof sheets === 'string') {
      yield [{ ok: false, at: 1, place: 'the file', because: sheets, text: '' }];
      return;
    }
    const { sheet: name } = settings;
    const sheet = name === '' ? sheets[0] : sheets.find((each) => each.sheet === name);
    if (!sheet) {
      const because = `It has no sheet “${name}”; there ${sheets.length === 1 ? 'is' : 'are'} ${sheets.map((each) => `“${each.sheet}”`).join(', ')}.`;
      yield [{ ok: false, at: 1, place: 'the file', because, text: '' }];
      return;
    }
    yield* recordsOfTable(linesOf(sheet), settings);
  },
  async *result(rows) {
    const lines = resultLines(rows);
    const first = await lines.next();
    const titles = first.done === true ? [] : first.value;
    const columns = titles.map((title) => ({ label: cellText(title), name: cellText(title) }));
    yield* sheetWriter.write({ columns, rows: lines });
  },
  address: columnAddress,
  shown: shownRow,
};

/** Returns the names of the sheets of a workbook; none where it is no workbook. */
export async function sheetNames(bytes: AsyncIterable<Uint8Array>): Promise<readonly string[]> {
  const sheets = await sheetsIn(bytes);
  return typeof sheets === 'string' ? [] : sheets.map(({ sheet }) => sheet);
}

async function sheetsIn(bytes: AsyncIterable<Uint8Array>): Promise<readonly Sheet[] | string> {
  const parts: Uint8Array[] = [];
  let length = 0;
  for await (const part of bytes) {
    parts.push(part);
    length += part.length;
  }
  const whole = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  try {
    let left = mostBytes;
    // Nothing is unpacked here: it is only counted how much there is.
    unzipSync(whole, {
      filter: ({ originalSize }) => {
        left -= originalSize;
        return false;
      },
    });
    if (left < 0)
      return `It unpacks into more than ${mostBytes / 1_000_000} million bytes; divide it, or send it as CSV.`;
    return await readSheets(whole.buffer, { trim: false });
  } catch {
    return 'It is damaged or cut off, or it is no workbook (XLSX).';
  }
}

async function* linesOf({ data }: Sheet): AsyncGenerator<readonly TableLine[]> {
  yield await Promise.resolve(data.map((cells, row) => ({ at: row + 1, cells: cells.map(cellOf) })));
}

/**
 * A date has no zone in a workbook, and is read as if it were of UTC: a day where it is one, and otherwise a day and a time. A number has the fifteen
 * digits that spreadsheets show (common practice, no source): 0.1 + 0.2 stands in the file as 0.30000000000000004.
 */
function cellOf(cell: unknown): Json {
  if (cell instanceof Date) {
    const text = cell.toISOString().replace(/(\.000)?Z$/, '');
    return text.endsWith('T00:00:00') ? text.slice(0, 10) : text;
  }
  if (typeof cell === 'number') return Number(cell.toPrecision(15));
  return typeof cell === 'string' || typeof cell === 'boolean' ? cell : null;
}

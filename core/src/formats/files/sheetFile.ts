import { unzipSync } from 'fflate';
import Joi from 'joi';
import readSheets, { type Sheet } from 'read-excel-file/universal';
import { SaxesParser } from 'saxes';
import type { Json } from '../../model/json';
import { cellText } from '../written/csvWriter';
import { sheetWriter } from '../written/sheetWriter';
import { joined } from './joined';
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

/** A workbook is read as a whole, so it may unpack into no more bytes than these; that which names its sheets is small. */
const [mostBytes, mostNames] = [60_000_000, 1_000_000];

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
  recognise: ({ bytes }) => (isWorkbook(bytes) ? sheetFile.usual : undefined),
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
  async *result(rows, _settings, tools) {
    const lines = resultLines(rows);
    const first = await lines.next();
    const titles = first.done === true ? [] : first.value;
    const columns = titles.map((title) => ({ label: cellText(title), name: cellText(title) }));
    yield* sheetWriter.write({ columns, rows: lines }, tools);
  },
  address: columnAddress,
  shown: shownRow,
};

/** Returns the names of the sheets of a workbook, without reading what is in them; none where it is no workbook. */
export function sheetNames(bytes: Uint8Array): readonly string[] {
  const names: string[] = [];
  const parser = new SaxesParser();
  parser.on('error', (thrown) => {
    throw thrown;
  });
  parser.on('opentag', ({ name, attributes }) => {
    // The element may have a prefix (ISO/IEC 29500-1, 18.2.19).
    if (/^(\w+:)?sheet$/.test(name)) names.push(String(attributes['name'] ?? ''));
  });
  try {
    const found = unzipSync(bytes, {
      filter: ({ name, originalSize }) => name === 'xl/workbook.xml' && originalSize <= mostNames,
    });
    parser.write(new TextDecoder().decode(found['xl/workbook.xml'])).close();
    return names;
  } catch {
    // What is wrong with it is told where it is read.
    return [];
  }
}

async function sheetsIn(bytes: AsyncIterable<Uint8Array>): Promise<readonly Sheet[] | string> {
  const parts: Uint8Array[] = [];
  for await (const part of bytes) parts.push(part);
  const whole = joined(parts);
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

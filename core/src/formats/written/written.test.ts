import { Workbook } from 'exceljs';
import fc from 'fast-check';
import type { Json } from '../../model/json';
import { csvFile } from '../files/csvFile';
import { jsonLinesFile } from '../files/jsonLinesFile';
import { sheetFile } from '../files/sheetFile';
import { rowsOf } from '../files/testFile';
import { csvWriter } from './csvWriter';
import { linesWriter } from './linesWriter';
import { TooManyRows, type RowWriter, type WrittenList } from './rowWriter';
import { sheetWriter } from './sheetWriter';

const columns = [
  { label: 'Unit', name: 'unit' },
  { label: 'Weight, kg', name: 'kg' },
];
async function* each<T>(values: Iterable<T>) {
  for (const value of values) yield await Promise.resolve(value);
}
async function written(writer: RowWriter, rows: Iterable<readonly Json[]>, more: Partial<WrittenList> = {}) {
  const parts: Uint8Array[] = [];
  for await (const part of writer.write({ columns, rows: each(rows), ...more })) parts.push(part);
  return new Uint8Array(Buffer.concat(parts));
}
const text = (bytes: Uint8Array) => Buffer.from(bytes).toString('utf8');

test('a list as CSV has its titles, quotes where they are needed, and lists and objects in one cell', async () => {
  const bytes = await written(csvWriter, [
    ['SKRU 1', 12.5],
    ['a "b"; c', ['x', 'y']],
    [null, { $number: '12345678901234567890' }],
    [{ a: 1 }, true],
  ]);
  expect(text(bytes)).toBe(
    '\ufeffUnit,"Weight, kg"\r\nSKRU 1,12.5\r\n"a ""b""; c",x; y\r\n,12345678901234567890\r\n"{""a"":1}",true\r\n',
  );
});

test('cells that a spreadsheet would compute are marked only where that is asked for', async () => {
  expect(text(await written(csvWriter, [['=1+1', '+44']]))).toContain('=1+1,+44');
  expect(text(await written(csvWriter, [['=1+1', '+44']], { guard: true }))).toContain("'=1+1,'+44");
});

test('a workbook is read by another library: texts stay texts, numbers are numbers', async () => {
  const book = new Workbook();
  const bytes = await written(sheetWriter, [
    ['=SUM(A1)', 12.5],
    ['0012', { $number: '12345678901234567890' }],
    [null, true],
  ]);
  await book.xlsx.load(Buffer.from(bytes) as unknown as ArrayBuffer);
  const values = book.worksheets[0]?.getSheetValues().slice(1) as unknown[][];
  expect(values.map((row) => row.slice(1))).toEqual([
    ['Unit', 'Weight, kg'],
    ['=SUM(A1)', 12.5],
    ['0012', '12345678901234567890'],
    [undefined, true],
  ]);
});

test('a workbook that would be too long is refused in a sentence', async () => {
  function* many() {
    for (let n = 0; n <= 100_001; n++) yield ['x', n];
  }
  await expect(written(sheetWriter, many())).rejects.toThrow(TooManyRows);
});

test('law: whatever is written in a format and read again is the same', async () => {
  const cell = fc.string({ unit: 'grapheme', maxLength: 6 }).map((each) => `x${each.replaceAll('\0', '')}`);
  const rows = fc.array(fc.tuple(cell, fc.integer({ min: -1e9, max: 1e9 })), { minLength: 1, maxLength: 5 });
  const heads = { headAt: 1, headLines: 1 };
  await fc.assert(
    fc.asyncProperty(rows, async (list) => {
      const csv = await written(csvWriter, list);
      const asCsv = await rowsOf(
        csvFile,
        { kind: 'csv', encoding: 'utf-8', delimiter: ',', quote: '"', ...heads },
        csv,
        5,
      );
      expect(asCsv.map((row) => row.ok && Object.values(row.value))).toEqual(
        list.map(([one, two]) => [one, String(two)]),
      );
      const asLines = await rowsOf(
        jsonLinesFile,
        { kind: 'json lines', encoding: 'utf-8' },
        await written(linesWriter, list),
        9,
      );
      expect(asLines.map((row) => row.ok && row.value)).toEqual(list.map(([unit, kg]) => ({ unit, kg })));
    }),
    { numRuns: 100 },
  );
  // XML 1.0, which a workbook is, has no control characters; a carriage return becomes a line feed.
  const plain = fc
    .string({ unit: 'grapheme', maxLength: 6 })
    .map((each) => `x${each.replaceAll(/\p{Cc}/gu, '')}`);
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(plain, fc.integer()), { minLength: 1, maxLength: 4 }),
      async (list) => {
        const bytes = await written(sheetWriter, list);
        const rows = await rowsOf(sheetFile, { kind: 'xlsx', sheet: '', ...heads }, bytes, 1000);
        expect(rows.map((row) => row.ok && Object.values(row.value))).toEqual(list);
      },
    ),
    { numRuns: 30 },
  );
});

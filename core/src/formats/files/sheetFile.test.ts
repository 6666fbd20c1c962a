import { zipSync } from 'fflate';
import { Workbook } from 'exceljs';
import writeSheets from 'write-excel-file/universal';
import { sheetFile, sheetNames, type SheetSettings } from './sheetFile';
import { rowsOf } from './testFile';

const settings: SheetSettings = { kind: 'xlsx', sheet: '', headAt: 1, headLines: 1 };

/** A workbook written by one library of the registry (exceljs), which is not the one that reads it here. */
async function workbook(): Promise<Uint8Array> {
  const book = new Workbook();
  const sheet = book.addWorksheet('Parts');
  sheet.addRow(['Part', null, 'Delivery', 'Price']);
  sheet.addRow(['Number', 'Name', 'Day', 'Amount']);
  sheet.mergeCells('A1:B1');
  sheet.addRow(['SC-1', 'Impeller', new Date(Date.UTC(2026, 4, 1)), 0.1 + 0.2]);
  sheet.addRow(['SC-2', 'Ring — Ø 40', new Date(Date.UTC(2026, 4, 2, 14, 30)), 12]);
  sheet.getColumn(3).numFmt = 'dd/mm/yyyy hh:mm';
  sheet.addRow(['SC-3', true, null, null]);
  book.addWorksheet('Notes').addRow(['Nothing here']);
  return new Uint8Array(await book.xlsx.writeBuffer());
}

test('a sheet is read: merged titles over two lines, days, times, numbers as they are shown, yes or no', async () => {
  const rows = await rowsOf(sheetFile, { ...settings, headLines: 2 }, await workbook(), 1000);
  expect(rows).toEqual([
    {
      ok: true,
      at: 3,
      place: 'row 3',
      value: {
        'Part / Number': 'SC-1',
        'Part / Name': 'Impeller',
        'Delivery / Day': '2026-05-01',
        'Price / Amount': 0.3,
      },
    },
    {
      ok: true,
      at: 4,
      place: 'row 4',
      value: {
        'Part / Number': 'SC-2',
        'Part / Name': 'Ring — Ø 40',
        'Delivery / Day': '2026-05-02T14:30:00',
        'Price / Amount': 12,
      },
    },
    {
      ok: true,
      at: 5,
      place: 'row 5',
      value: { 'Part / Number': 'SC-3', 'Part / Name': true, 'Delivery / Day': null, 'Price / Amount': null },
    },
  ]);
});

test('a workbook of another library is read as well', async () => {
  const written = await writeSheets([
    [{ value: 'Number' }, { value: 'Weight' }],
    [{ value: 'SC-9' }, { value: 12.5 }],
  ]).toBlob();
  const bytes = new Uint8Array(await written.arrayBuffer());
  expect(sheetFile.recognise({ name: 'x', bytes, whole: true })).toEqual(settings);
  expect(await rowsOf(sheetFile, settings, bytes, 500)).toEqual([
    { ok: true, at: 2, place: 'row 2', value: { Number: 'SC-9', Weight: 12.5 } },
  ]);
});

test('the sheets are told by name, and one that is not there is named', async () => {
  const bytes = await workbook();
  expect(sheetNames(bytes)).toEqual(['Parts', 'Notes']);
  expect(await rowsOf(sheetFile, { ...settings, sheet: 'Prices' }, bytes, 5000)).toMatchObject([
    { ok: false, place: 'the file', because: 'It has no sheet “Prices”; there are “Parts”, “Notes”.' },
  ]);
});

test('a damaged workbook, and one that would unpack into far too much, are a sentence each', async () => {
  const damaged = (await workbook()).slice(0, 900);
  expect(await rowsOf(sheetFile, settings, damaged, 500)).toMatchObject([
    { ok: false, because: 'It is damaged or cut off, or it is no workbook (XLSX).' },
  ]);
  const bomb = zipSync({ '[Content_Types].xml': new Uint8Array(70_000_000) }, { level: 1 });
  expect(await rowsOf(sheetFile, settings, bomb, 1_000_000)).toMatchObject([
    { ok: false, because: 'It unpacks into more than 60 million bytes; divide it, or send it as CSV.' },
  ]);
});

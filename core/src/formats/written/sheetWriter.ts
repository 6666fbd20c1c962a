import writeSheets from 'write-excel-file/universal';
import type { Json } from '../../model/json';
import { cellText } from './csvWriter';
import { TooManyRows, type RowWriter, type WrittenList } from './rowWriter';

/** A workbook is made as a whole, so it takes no more rows. */
const mostRows = 100_000;
/** A cell holds no more characters (common practice, no source). */
const longestCell = 32_767;

/** Workbooks (XLSX, ISO/IEC 29500) with one sheet. Numbers are numbers where a spreadsheet keeps all their digits. */
export const sheetWriter: RowWriter = {
  kind: 'xlsx',
  name: 'XLSX',
  mediaType: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  ending: '.xlsx',
  async *write(list) {
    yield await workbookOf(list);
  },
};

async function workbookOf({ columns, rows }: WrittenList): Promise<Uint8Array> {
  const lines: (ReturnType<typeof cellOf> | null)[][] = [
    columns.map(({ label }) => ({ value: label, type: String, fontWeight: 'bold' as const })),
  ];
  for await (const row of rows) {
    if (lines.length > mostRows)
      throw new TooManyRows(
        `A workbook takes ${mostRows.toLocaleString('en')} rows, and there are more. Take CSV, or narrow the list.`,
      );
    lines.push(row.map(cellOf));
  }
  const blob = await writeSheets(lines).toBlob();
  return new Uint8Array(await blob.arrayBuffer());
}

/** A text stays a text whatever it looks like: no spreadsheet computes it. */
function cellOf(json: Json) {
  if (json === null || json === '') return null;
  if (typeof json === 'number' && String(Math.abs(json)).replace('.', '').length <= 15)
    return { value: json, type: Number };
  if (typeof json === 'boolean') return { value: json, type: Boolean };
  return { value: cellText(json).slice(0, longestCell), type: String };
}

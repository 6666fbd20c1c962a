import writeSheets from 'write-excel-file/universal';
import type { Json } from '../../model/json';
import { cellText } from './csvWriter';
import { TooManyRows, type RowWriter, type WrittenSheet } from './rowWriter';

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
  async *write({ columns, rows }, { workbook } = { workbook: workbookOf }) {
    const lines: (readonly Json[])[] = [];
    for await (const row of rows) {
      if (lines.length === mostRows)
        throw new TooManyRows(
          `A workbook takes ${mostRows.toLocaleString('en')} rows, and there are more. Take CSV, or narrow the list.`,
        );
      lines.push(row);
    }
    yield await workbook([{ name: 'List', titles: columns.map(({ label }) => label), rows: lines }]);
  },
};

/** Returns a workbook. Names of sheets become such as a workbook takes: without marks, 31 characters at most, each once. */
export async function workbookOf(sheets: readonly WrittenSheet[]): Promise<Uint8Array> {
  const taken = new Set<string>();
  const blob = await writeSheets(
    sheets.map(({ name, titles, rows }) => ({
      sheet: sheetName(name, taken),
      data: [
        titles.map((title) => ({ value: title, type: String, fontWeight: 'bold' as const })),
        ...rows.map((row) => row.map(cellOf)),
      ],
      stickyRowsCount: 1,
    })),
  ).toBlob();
  return new Uint8Array(await blob.arrayBuffer());
}

function sheetName(name: string, taken: Set<string>): string {
  const plain =
    name
      .replaceAll(/[\\/?*[\]:']/g, ' ')
      .slice(0, 31)
      .trim() || 'Sheet';
  let free = plain;
  for (let n = 2; taken.has(free.toLowerCase()); n++) free = `${plain.slice(0, 27)} (${n})`;
  taken.add(free.toLowerCase());
  return free;
}

/** A text stays a text whatever it looks like: no spreadsheet computes it. */
function cellOf(json: Json) {
  if (json === null || json === '') return null;
  if (typeof json === 'number' && String(Math.abs(json)).replace('.', '').length <= 15)
    return { value: json, type: Number };
  if (typeof json === 'boolean') return { value: json, type: Boolean };
  return { value: cellText(json).slice(0, longestCell), type: String };
}

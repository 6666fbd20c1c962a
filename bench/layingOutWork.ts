import Papa from 'papaparse';
import { compileLayout, fileFormat, type FileSettings, type Layout, type RecordType } from '@vast-knot/core';

export const layingRows = 500_000;
const partBytes = 65_536;

const type: RecordType = {
  name: 'row',
  label: 'Row',
  plural: 'Rows',
  idField: 'number',
  nameField: 'name',
  fields: [
    { name: 'number', label: 'Number', type: 'text', required: true },
    { name: 'name', label: 'Name', type: 'text', maxLength: 60 },
    { name: 'vessel', label: 'Vessel', type: 'text', maxLength: 4 },
    { name: 'quantity', label: 'Quantity', type: 'integer', min: 0 },
    { name: 'price', label: 'Price', type: 'decimal' },
    { name: 'arrives', label: 'Arrives', type: 'date' },
  ],
};
const file: FileSettings = {
  kind: 'csv',
  encoding: 'utf-8',
  delimiter: ',',
  quote: '"',
  headAt: 1,
  headLines: 1,
};
const layout: Layout = {
  file,
  lines: type.fields.map(({ name, label }) => ({ field: name, from: label })),
};

/** A file of so many rows, part by part: it is made on the way and never stands in memory as a whole. */
export async function* fileOfRows(rows = layingRows): AsyncGenerator<Uint8Array> {
  const encoder = new TextEncoder();
  let text = 'Number,Name,Vessel,Quantity,Price,Arrives\r\n';
  for (let n = 0; n < rows; n++) {
    text += `SC-${n},"Part ${n % 977}, bronze",SK${n % 90},${n % 40},${n % 900}.${10 + (n % 90)},2026-12-${10 + (n % 19)}\r\n`;
    if (text.length < partBytes) continue;
    yield await Promise.resolve(encoder.encode(text));
    text = '';
  }
  yield encoder.encode(text);
}

/** Lays all rows of a file out. Returns how many there were. */
export async function layOutAll(rows = layingRows): Promise<number> {
  const { lay } = compileLayout(layout, type, new Map());
  let count = 0;
  for await (const some of fileFormat(file).read(fileOfRows(rows), file))
    for (const row of some) {
      if (!row.ok) throw new Error(row.because);
      const { record, problems } = lay(row.value, { time: '2026-11-28T08:00:00Z' });
      if (problems.length > 0 || record['number'] === undefined) throw new Error('A row was not laid out.');
      count++;
    }
  return count;
}

/** What somebody would write by hand with the same package: it parses, takes columns by their titles, and checks each value as its field wants. */
export async function scriptAll(rows = layingRows): Promise<number> {
  const decoder = new TextDecoder();
  let rest = '';
  let titles: readonly string[] | undefined;
  let count = 0;
  const take = (lines: readonly (readonly string[])[]) => {
    for (const cells of lines) {
      if (cells.length === 1 && cells[0] === '') continue;
      if (!titles) {
        titles = cells;
        continue;
      }
      const row: Record<string, string> = {};
      titles.forEach((title, at) => (row[title] = cells[at] ?? ''));
      const {
        Number: number = '',
        Name: name = '',
        Vessel: vessel = '',
        Quantity = '',
        Price = '',
        Arrives = '',
      } = row;
      const [quantity, price] = [Number(Quantity), Number(Price)];
      if (
        number === '' ||
        name.length > 60 ||
        vessel.length > 4 ||
        !Number.isInteger(quantity) ||
        Number.isNaN(price)
      )
        throw new Error('A row is wrong.');
      if (Number.isNaN(Date.parse(Arrives))) throw new Error('A day is wrong.');
      const record = { number, name: name.normalize('NFC'), vessel, quantity, price, arrives: Arrives };
      if (record.number === '') throw new Error('A row is wrong.');
      count++;
    }
  };
  for await (const part of fileOfRows(rows)) {
    rest += decoder.decode(part, { stream: true });
    const end = rest.lastIndexOf('\n');
    take(Papa.parse<string[]>(rest.slice(0, end + 1), { delimiter: ',', newline: '\r\n' }).data);
    rest = rest.slice(end + 1);
  }
  if (rest !== '') take(Papa.parse<string[]>(rest, { delimiter: ',', newline: '\r\n' }).data);
  return count;
}

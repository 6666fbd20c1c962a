import { csvFile } from '../formats/files/csvFile';
import { rowsOf } from '../formats/files/testFile';
import type { CsvSettings } from '../formats/files/csvFile';
import { compileLayout } from './lay';
import { learnType } from './learnType';

const file: CsvSettings = {
  kind: 'csv',
  encoding: 'utf-8',
  delimiter: ',',
  quote: '"',
  headAt: 1,
  headLines: 1,
};
const valuesOf = async (text: string) =>
  (await rowsOf(csvFile, file, text)).flatMap((row) => (row.ok ? [row.value] : []));

test('a record type is learnt from a file: a field for each column, of the type that all its values have', async () => {
  const values = await valuesOf(
    'Part no.,Name,Vessel code,Quantity,Price,Arrives on,Name\n' +
      'P-1,Impeller,0012,4,12.50,2026-03-09,a\n' +
      'P-2,Gasket,0013,10,3,2026-03-10,\n' +
      'P-3,Gasket,0012,,0.75,,b\n',
  );
  const { type, lines } = learnType({ file, values, name: 'spare', label: 'Spare' });
  expect(type).toMatchObject({ name: 'spare', label: 'Spare', idField: 'partNo', nameField: 'name' });
  expect(type.fields.map(({ name, label, type: of }) => [name, label, of])).toEqual([
    ['partNo', 'Part no.', 'text'],
    ['name', 'Name', 'text'],
    ['vesselCode', 'Vessel code', 'text'],
    ['quantity', 'Quantity', 'integer'],
    ['price', 'Price', 'decimal'],
    ['arrivesOn', 'Arrives on', 'date'],
    ['name2', 'Name (2)', 'text'],
  ]);
  const laid = compileLayout({ file, lines }, type, new Map()).lay(values[0] ?? {}, {
    time: '2026-01-01T00:00:00Z',
  });
  expect(laid).toMatchObject({
    problems: [],
    record: { partNo: 'P-1', vesselCode: '0012', quantity: 4, price: 12.5, arrivesOn: '2026-03-09' },
  });
});

test('where no column has another value in each record, a record is known by its row', async () => {
  const values = await valuesOf('Port,Berth\nNOR,1\nNOR,1\n');
  const { type } = learnType({ file, values, name: 'berth', label: 'Berth' });
  expect(type.idField).toBe('row');
  expect(type.fields[0]).toEqual({ name: 'row', label: 'Row', type: 'text', readOnly: true });
});

test('titles that no formula could say get names that one can', async () => {
  const values = await valuesOf('Größe (m),重さ,2nd,row\n1,2,3,4\n5,6,7,8\n');
  const { type } = learnType({ file, values, name: 'x', label: 'X' });
  expect(type.fields.map(({ name }) => name)).toEqual(['grosseM', 'field', 'field2nd', 'row2']);
});

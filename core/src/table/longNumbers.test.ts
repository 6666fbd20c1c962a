import { compile } from '../formula/compile';
import { exampleEnv, exampleScope } from '../formula/testScope';
import { toJson } from '../formula/toJson';
import { printJson } from '../model/jsonText';
import { showCell } from './cell';
import { rowProblems } from './problems';
import { tableSchema, type LookupTable } from './table';
import { readTableCsv, writeTableCsv } from './tableCsv';
import { TableIndex } from './tableIndex';

/** Cells and keys keep their digits: in a file, in a table, in what a formula looks up. */
const definition: Omit<LookupTable, 'rows'> = {
  name: 'Registers',
  columns: [
    { name: 'number', label: 'Number', type: 'integer', key: true },
    { name: 'share', label: 'Share', type: 'decimal', key: false },
  ],
  matching: 'exact',
  onMiss: 'blank',
};
const csv = 'number,share\r\n12345678901234567890,0.12345678901234567890\r\n12345678901234567891,+.5\r\n';
const read = readTableCsv(definition, csv);
const rows = read.ok ? read.rows : [];

function lookedUp(matching: LookupTable['matching'], key: string): string {
  const index = new TableIndex({ ...definition, matching, rows });
  const scope = { ...exampleScope, tables: new Map([['Registers', index]]) };
  const result = compile(`TABLE("Registers", ${key}, "share")`, scope);
  return printJson(result.ok ? toJson(result.formula.run(exampleEnv)) : result.errors);
}

test('a file is read and written with all digits', () => {
  expect(read.ok && rows.map((row) => row.map(showCell))).toEqual([
    ['12345678901234567890', '0.12345678901234567890'],
    ['12345678901234567891', '0.5'],
  ]);
  expect(writeTableCsv(definition, rows)).toContain('12345678901234567890,0.12345678901234567890');
});

test('a table with long numbers is a table', () => {
  const { error } = tableSchema.validate({ ...definition, rows }, { convert: false });
  expect(error).toBeUndefined();
  expect(rowProblems(definition, rows)).toEqual([]);
  const broken = rowProblems(definition, [[{ $number: '12345678901234567890.5' }, 'x']]);
  expect(broken.map(({ message }) => message)).toEqual([
    expect.stringContaining('“12345678901234567890.5” is not a whole number'),
    expect.stringContaining('“x” is not a number'),
  ]);
});

test.each([
  ['exact', '12345678901234567890', '0.1234567890123456789'],
  ['exact', '12345678901234567891', '0.5'],
  ['exact', '12345678901234567892', 'null'],
  ['range', '12345678901234567890', '0.1234567890123456789'],
  ['range', '12345678901234567890.9', '0.1234567890123456789'],
  ['range', '12345678901234567899', '0.5'],
  ['range', '12345678901234567889', 'null'],
] as const)('by %s, %s finds %s', (matching, key, share) => expect(lookedUp(matching, key)).toBe(share));

import fc from 'fast-check';
import type { Json } from '../model/json';
import { coverage } from './coverage';
import { editProblems } from './editProblems';
import { definitionProblems, rowProblems } from './problems';
import { applyRowChanges, compareRows, invertRowChange, type RowChange } from './rowChange';
import type { KeptRow, LookupTable, Row, TableDefinition } from './table';
import { readTableCsv, writeTableCsv } from './tableCsv';
import { TableIndex } from './tableIndex';

const ports: TableDefinition = {
  name: 'Ports',
  columns: [
    { name: 'port', label: 'Port code', type: 'text', key: true },
    { name: 'zone', label: 'Tariff zone', type: 'text', key: false },
    { name: 'crates', label: 'Crates', type: 'integer', key: false },
  ],
  matching: 'exact',
  onMiss: 'blank',
};
const table = (rows: readonly Row[], change: Partial<LookupTable> = {}): LookupTable => ({
  ...ports,
  rows,
  ...change,
});

describe('look-up', () => {
  test('an exact key finds its row only as it is written', () => {
    const index = new TableIndex(table([['NOR', 'N2', 4]]));
    expect(index.find(['NOR'])).toEqual(['NOR', 'N2', 4]);
    expect(index.find(['nor'])).toBeUndefined();
  });

  test('a caseless key is folded as Unicode folds it', () => {
    const index = new TableIndex(
      table(
        [
          ['STRASSE', 'N2', 1],
          ['Ærø', 'S1', 2],
        ],
        { matching: 'caseless' },
      ),
    );
    expect(index.find(['straße'])?.[1]).toBe('N2');
    expect(index.find(['ÆRØ'])?.[1]).toBe('S1');
    // One letter, written as a whole and as a letter with its mark (NFC and NFD).
    const accents = new TableIndex(table([['Café', 'N1', 1]]));
    expect(accents.find(['Café'.normalize('NFD')])?.[1]).toBe('N1');
  });

  test('a number finds its row whether it came as text or as number', () => {
    const columns = [
      { name: 'n', label: 'N', type: 'integer', key: true },
      ports.columns[1],
    ] as LookupTable['columns'];
    const index = new TableIndex(table([[7, 'N2']], { columns }));
    expect(index.find([7])?.[1]).toBe('N2');
    expect(index.find(['7'])?.[1]).toBe('N2');
  });

  test('a range key finds the row with the greatest bound at or below it', () => {
    const columns: LookupTable['columns'] = [
      { name: 'port', label: 'Port', type: 'text', key: true },
      { name: 'from', label: 'From kg', type: 'decimal', key: true },
      { name: 'band', label: 'Band', type: 'text', key: false },
    ];
    const rows: Row[] = [
      ['NOR', 100, 'B'],
      ['NOR', 0, 'A'],
      ['NOR', 1000.5, 'C'],
      ['FIS', 0, 'X'],
    ];
    const index = new TableIndex(table(rows, { columns, matching: 'range' }));
    const band = (port: string, weight: Json) => index.find([port, weight])?.[2];
    expect([
      band('NOR', 0),
      band('NOR', 99.9),
      band('NOR', 100),
      band('NOR', '1000.5'),
      band('FIS', 5000),
    ]).toEqual(['A', 'A', 'B', 'C', 'X']);
    expect(band('NOR', -1)).toBeUndefined();
    expect(band('ZZZ', 5)).toBeUndefined();
  });

  test('a row holds from its first day to its last, both included', () => {
    const columns: LookupTable['columns'] = [
      { name: 'port', label: 'Port', type: 'text', key: true },
      { name: 'zone', label: 'Zone', type: 'text', key: false },
      { name: 'from', label: 'From', type: 'date', key: false },
      { name: 'to', label: 'To', type: 'date', key: false },
    ];
    const definition: TableDefinition = { ...ports, columns, validity: { from: 'from', to: 'to' } };
    const rows: Row[] = [
      ['NOR', 'N1', null, '2026-03-31'],
      ['NOR', 'N2', '2026-04-01', null],
    ];
    const index = new TableIndex({ ...definition, rows });
    expect(index.find(['NOR'], '2026-03-31')?.[1]).toBe('N1');
    expect(index.find(['NOR'], '2026-04-01')?.[1]).toBe('N2');
    expect(rowProblems(definition, rows)).toEqual([]);
    expect(rowProblems(definition, [...rows, ['NOR', 'N3', '2027-01-01', null]])).toEqual([
      { rows: [1, 2], message: 'Rows 2 and 3 have the same key “NOR”, on some of the same days.' },
    ]);
  });

  test('backwards, the first row with the value is found', () => {
    const index = new TableIndex(
      table([
        ['NOR', 'N2', 4],
        ['FIS', 'N2', 5],
      ]),
    );
    expect(index.findByValue(1, 'N2')?.[0]).toBe('NOR');
    expect(index.findByValue(2, 5)?.[0]).toBe('FIS');
    expect(index.findByValue(1, 'Z9')).toBeUndefined();
  });

  test('a hash map gives the same answers over generated rows', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.string({ minLength: 1, maxLength: 6 }), { maxLength: 50 }),
        fc.string(),
        (keys, other) => {
          const rows = keys.map((key, at): Row => [key, `z${at}`, at]);
          const index = new TableIndex(table(rows));
          const map = new Map(rows.map((row) => [String(row[0]).normalize('NFC'), row]));
          for (const key of [...keys, other]) {
            if (map.size === rows.length) expect(index.find([key])).toBe(map.get(key.normalize('NFC')));
          }
        },
      ),
    );
  });
});

describe('rows that are refused', () => {
  test('duplicates are named with both rows, under the table’s own comparison', () => {
    const rows: Row[] = [
      ['NOR', 'N1', 1],
      ['FIS', 'N1', 1],
      ['nor', 'N1', 1],
    ];
    expect(rowProblems(ports, rows)).toEqual([]);
    expect(rowProblems({ ...ports, matching: 'caseless' }, rows)).toEqual([
      { rows: [0, 2], message: 'Rows 1 and 3 have the same key “nor”.' },
    ]);
  });

  test('cells of another type, missing keys and short rows are named with their row and column', () => {
    const messages = rowProblems(ports, [
      ['NOR', 'N1', 'many'],
      [null, 'N1', 1],
      ['FIS', 'N1'],
    ]).map(({ message }) => message);
    expect(messages).toEqual([
      'Row 1, “Crates”: “many” is not a whole number.',
      'Row 2 has no key.',
      'Row 3 has 2 values for 3 columns.',
    ]);
  });

  test('a definition that cannot work is refused', () => {
    expect(definitionProblems({ ...ports, validity: { from: 'zone', to: 'zone' } })).toHaveLength(2);
    expect(definitionProblems({ ...ports, onMiss: 'default' })).toEqual([
      { rows: [], message: 'The default row needs a value for each column.' },
    ]);
    expect(definitionProblems(ports)).toEqual([]);
  });
});

describe('CSV', () => {
  const rows: Row[] = [
    ['NOR', 'N2, west', 4],
    ['FIS', 'He said "no"', null],
    ['SKE', 'two\nlines', -1],
  ];

  test('what is written is read back, quotes, commas and line breaks included (RFC 4180)', () => {
    const csv = writeTableCsv(ports, rows);
    expect(csv).toBe('port,zone,crates\r\nNOR,"N2, west",4\r\nFIS,"He said ""no""",\r\nSKE,"two\nlines",-1');
    expect(readTableCsv(ports, csv)).toEqual({ ok: true, rows });
  });

  test('columns may stand in any order, under label or name, after a byte order mark, with semicolons', () => {
    const read = readTableCsv(ports, '\ufeffTariff zone;Port code\r\nN2;NOR\r\n');
    expect(read).toEqual({ ok: true, rows: [['NOR', 'N2', null]] });
  });

  test('a mistake in row 3 is named, and nothing is taken', () => {
    const read = readTableCsv(ports, 'port,zone,crates\nNOR,N2,4\nFIS,N1,5\nSKE,S1,lots\n');
    expect(read).toEqual({
      ok: false,
      problems: [{ rows: [2], column: 'crates', message: 'Row 3, “Crates”: “lots” is not a whole number.' }],
    });
  });

  test.each([
    ['', 'The file is empty.'],
    ['zone\nN2\n', 'The file has no column “port”, which is a key.'],
    ['port,colour\nNOR,red\n', 'The table has no column “colour”, which the file has.'],
    ['port,zone\nNOR\n', 'Row 1 has 1 values where the first line names 2 columns.'],
  ])('%j is refused', (csv, message) => {
    const read = readTableCsv(ports, csv);
    expect(read.ok ? [] : read.problems.map((problem) => problem.message)).toContain(message);
  });

  test('numbers and yes/no are read by the type of their column', () => {
    const columns = [
      ...ports.columns,
      { name: 'tidal', label: 'Tidal', type: 'boolean', key: false },
    ] as LookupTable['columns'];
    expect(readTableCsv({ ...ports, columns }, 'port,crates,tidal\nNOR,007,Yes\n')).toEqual({
      ok: true,
      rows: [['NOR', null, 7, true]],
    });
  });
});

describe('changes of rows', () => {
  const kept = (...cells: Row[]): KeptRow[] => cells.map((row, id) => ({ id, cells: row }));

  test('incoming rows are told apart by key: added, changed, removed, the same', () => {
    const rows = kept(['NOR', 'N1', 1], ['FIS', 'N1', 1], ['SKE', 'S1', 1]);
    const difference = compareRows(ports, rows, [
      ['FIS', 'N3', 1],
      ['NOR', 'N1', 1],
      ['NEW', 'Q1', null],
    ]);
    expect(difference).toEqual({
      added: [['NEW', 'Q1', null]],
      changed: [{ row: rows[1], after: ['FIS', 'N3', 1] }],
      removed: [rows[2]],
      same: 1,
    });
  });

  test('a row that somebody else changed in between is not overwritten', () => {
    const change: RowChange = { id: 0, before: ['NOR', 'N1', 1], after: ['NOR', 'N2', 1] };
    expect(applyRowChanges(kept(['NOR', 'N9', 1]), [change])).toEqual({ stale: change });
  });

  test('apply then invert is identity', () => {
    const cells = fc.tuple(fc.string(), fc.string(), fc.integer());
    fc.assert(
      fc.property(
        fc.array(cells, { maxLength: 8 }),
        fc.array(fc.option(cells), { maxLength: 8 }),
        (before, after) => {
          const rows = before.map((row, id) => ({ id, cells: row }));
          const changes = after.flatMap((row, id): RowChange[] => {
            const present = before[id] ?? null;
            return present === null && row === null ? [] : [{ id, before: present, after: row }];
          });
          const done = applyRowChanges(rows, changes);
          if (!('rows' in done)) throw new Error('a change was stale');
          const back = applyRowChanges(done.rows, [...changes].reverse().map(invertRowChange));
          if (!('rows' in back)) throw new Error('an inverted change was stale');
          expect([...back.rows].sort((a, b) => a.id - b.id)).toEqual(rows);
        },
      ),
    );
  });
});

describe('coverage', () => {
  test('keys that occur without a row are counted, the most frequent first; blanks are left out', () => {
    const index = new TableIndex(table([['NOR', 'N2', 1]], { matching: 'caseless' }));
    expect(coverage(index, [['nor'], ['XXX'], ['YYY'], ['xxx'], [null]])).toEqual({
      occurring: 3,
      uncovered: [
        { keys: ['XXX'], records: 2 },
        { keys: ['YYY'], records: 1 },
      ],
    });
  });

  test('options count even when no record holds them', () => {
    const index = new TableIndex(table([['frozen', 'FRZ', 1]]));
    expect(coverage(index, [['frozen']], [['frozen'], ['live']]).uncovered).toEqual([
      { keys: ['live'], records: 0 },
    ]);
  });
});

test('edited rows are held against all others, and named as people count all rows', () => {
  const definition: TableDefinition = {
    name: 'Ports',
    columns: [
      { name: 'port', label: 'Port', type: 'text', key: true },
      { name: 'crates', label: 'Crates', type: 'integer', key: false },
    ],
    matching: 'caseless',
    onMiss: 'blank',
  };
  const rows = [
    { id: 11, cells: ['NOR', 1] },
    { id: 12, cells: ['HOL', 'not looked at, since nobody edited it'] },
    { id: 13, cells: ['EID', 2] },
    { id: -1, cells: ['eid', 3] },
    { id: -2, cells: ['MUR', 'few'] },
  ];
  expect(editProblems(definition, rows, new Set([-1, -2]))).toEqual([
    { rows: [2, 3], message: 'Rows 3 and 4 have the same key “eid”.' },
    { rows: [4], column: 'crates', message: 'Row 5, “Crates”: “few” is not a whole number.' },
  ]);
  expect(editProblems(definition, rows, new Set())).toEqual([]);
});

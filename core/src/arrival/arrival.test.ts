import { csvFile } from '../formats/files/csvFile';
import { writeTagged } from '../formats/files/tagged';
import { taggedFile } from '../formats/files/taggedFile';
import { rowsOf } from '../formats/files/testFile';
import type { FileSettings } from '../formats/files';
import type { JsonObject } from '../model/json';
import type { RecordType } from '../model/system';
import { TableIndex } from '../table/tableIndex';
import { headOfFile } from './head';
import { compileLayout, rowKey } from './lay';
import { proposeLayout } from './proposeLayout';
import type { LayoutLine } from './layout';
import { layoutText, readLayoutText } from './layoutText';
import { knownPlaces, suggestLayout } from './suggestLayout';

const csv: FileSettings = {
  kind: 'csv',
  encoding: 'utf-8',
  delimiter: ';',
  quote: '"',
  headAt: 1,
  headLines: 1,
};
const tagged: FileSettings = { kind: 'tagged', encoding: 'utf-8' };

const part: RecordType = {
  name: 'part',
  label: 'Spare part',
  plural: 'Spare parts',
  idField: 'number',
  nameField: 'name',
  fields: [
    { name: 'number', label: 'Part number', type: 'text', required: true },
    { name: 'name', label: 'Name', type: 'text', maxLength: 12 },
    { name: 'price', label: 'Price', type: 'decimal' },
    { name: 'since', label: 'In stock since', type: 'date' },
    { name: 'suits', label: 'Suits', type: 'multichoice' },
    {
      name: 'size',
      label: 'Size',
      type: 'object',
      fields: [{ name: 'width', label: 'Width', type: 'integer' }],
    },
  ],
};
const tables = new Map([
  [
    'Suits',
    new TableIndex({
      name: 'Suits',
      columns: [
        { name: 'word', label: 'Word', type: 'text', key: true },
        { name: 'code', label: 'Code', type: 'text', key: false },
      ],
      rows: [['bronze', 'BZ']],
      matching: 'caseless',
      onMiss: 'blank',
    }),
  ],
]);
const time = '2026-05-01T08:00:00Z';
const laid = (file: FileSettings, lines: readonly LayoutLine[], value: JsonObject) =>
  compileLayout({ file, lines }, part, tables).lay(value, { time });

const row = {
  No: 'SC-1',
  Name: 'Impeller',
  Price: '12.50',
  Since: '01/05/2026',
  Kind: 'bronze',
  Width: '40',
};

test('places and formulas fill fields, each value of the type of its field', () => {
  const { record, problems } = laid(
    csv,
    [
      { field: 'number', from: 'No' },
      { field: 'name', from: '=UPPER(PLACE("Name"))' },
      { field: 'price', from: 'Price' },
      { field: 'since', from: '=PARSEDATE(PLACE("Since"), "dd/mm/yyyy")' },
      { field: 'suits', from: '=TABLE("Suits", PLACE("Kind"), "code")' },
      { field: 'size.width', from: 'Width' },
    ],
    row,
  );
  expect(problems).toEqual([]);
  expect(record).toEqual({
    number: 'SC-1',
    name: 'IMPELLER',
    price: 12.5,
    since: '2026-05-01',
    suits: ['BZ'],
    size: { width: 40 },
  });
  expect(rowKey(part, record)).toBe('SC-1');
});

test('a formula reads fields that places filled, and NOW() is when the file came', () => {
  const lines = [
    { field: 'number', from: 'No' },
    { field: 'name', from: '=number & " x"' },
    { field: 'since', from: '=LOCALDATE(NOW(), "UTC")' },
  ];
  expect(laid(csv, lines, row).record).toEqual({ number: 'SC-1', name: 'SC-1 x', since: '2026-05-01' });
});

// The same day in three forms: ISO 8601 is read as it is; the others are told, and a formula says how they are meant.
test.each([
  ['2026-05-01', []],
  ['01.05.2026', ['“In stock since” holds "01.05.2026", which is not a date in ISO 8601.']],
  ['5/1/2026', ['“In stock since” holds "5/1/2026", which is not a date in ISO 8601.']],
])('a date written %s: %j', (written, because) => {
  const { problems } = laid(csv, [{ field: 'since', from: 'Since' }], { Since: written });
  expect(problems.map((problem) => problem.because)).toEqual(because);
});

test('what cannot be in a field is told with the field, and the others are filled', () => {
  const { record, problems } = laid(
    csv,
    [
      { field: 'number', from: 'No' },
      { field: 'name', from: 'Name' },
      { field: 'price', from: 'Price' },
    ],
    { No: 'SC-2', Name: 'A name that is too long', Price: 'much' },
  );
  expect(record).toEqual({ number: 'SC-2' });
  expect(problems).toEqual([
    { field: 'name', because: expect.stringContaining('12') as string },
    { field: 'price', because: '“Price” holds "much", which is not a number.' },
  ]);
});

test('a required field that is blank in the file is a problem of its row', () => {
  expect(laid(csv, [{ field: 'number', from: 'No' }], { No: '' }).problems).toEqual([
    { field: 'number', because: '“Part number” is required and would be left blank.' },
  ]);
});

test('several values for a field of one are told; a field of several takes them as a list', async () => {
  const written = writeTagged(
    {
      leader: '00000nam a2200000   4500',
      fields: [
        { tag: '001', data: 'SC-7' },
        {
          tag: '954',
          indicators: '  ',
          subfields: [
            ['c', 'one'],
            ['c', 'two'],
            ['c', 'x'],
          ],
        },
      ],
    },
    (text) => new TextEncoder().encode(text),
  );
  if (!written.ok) throw new Error(written.because);
  const [read] = await rowsOf(taggedFile, { kind: 'tagged', encoding: 'utf-8' }, written.bytes);
  if (read?.ok !== true) throw new Error(read?.because);
  const { record, problems } = laid(
    tagged,
    [
      { field: 'number', from: '001' },
      { field: 'name', from: '954$c' },
      { field: 'suits', from: '954$c' },
    ],
    read.value,
  );
  expect(record).toEqual({ number: 'SC-7', suits: ['one', 'two', 'x'] });
  expect(problems).toEqual([
    {
      field: 'name',
      because:
        '“Name” holds one value, and there are 3 at 954$c; name one of them, or join them with a formula: =TEXTJOIN(", ", TRUE, PLACE("954$c"))',
    },
  ]);
  const joined = laid(tagged, [{ field: 'name', from: '=TEXTJOIN(", ", TRUE, PLACE("954$c"))' }], read.value);
  expect(joined.record).toEqual({ name: 'one, two, x' });
});

test('lines that cannot be are told before anything is laid out', () => {
  const { problems, missing } = compileLayout(
    {
      file: tagged,
      lines: [
        { field: 'nmae', from: '001' },
        { field: 'name', from: '95$c' },
        { field: 'name', from: '=UPPER(' },
        { field: 'price', from: '=PLACE("99")' },
      ],
    },
    part,
    tables,
  );
  expect(problems.map(({ field }) => field)).toEqual(['nmae', 'name', 'name', 'name', 'price']);
  expect(problems[0]?.because).toBe('Spare part has no field “nmae”. Did you mean “name”?');
  expect(problems[2]?.because).toBe('“Name” is filled by two lines.');
  expect(missing.map(({ path }) => path)).toEqual(['number']);
});

test('a mapping is copied out as two columns, and read again', () => {
  const lines = [
    { field: 'number', from: '001' },
    { field: 'name', from: '=TRIM(PLACE("245$a"))' },
  ];
  const text = layoutText(lines);
  expect(text).toBe('number\t001\nname\t=TRIM(PLACE("245$a"))\n');
  expect(readLayoutText(text, part, { file: tagged })).toEqual({ ok: true, lines });
  // By label too, with other marks, quotes of a spreadsheet, and a line of titles.
  expect(
    readLayoutText('Field;From\nPart number;001\nName;"=PLACE(""245$a"")"\n', part, { file: tagged }),
  ).toEqual({
    ok: true,
    lines: [
      { field: 'number', from: '001' },
      { field: 'name', from: '=PLACE("245$a")' },
    ],
  });
});

test('a name that does not exist is refused with its line', () => {
  expect(
    readLayoutText('numbr\tNo\nname\tNmae\nprice\nname\tName\n', part, {
      file: csv,
      known: new Set(['No', 'Name']),
    }),
  ).toEqual({
    ok: false,
    problems: [
      'Line 1: Spare part has no field “numbr”. Did you mean “number”?',
      'Line 2: The file has no “Nmae”.',
      'Line 3: “price” has one column; two are wanted, the field and where its value comes from.',
      'Line 4: “Name” stands in an earlier line already.',
    ],
  });
});

test('fields whose names are those of places are proposed', () => {
  const places = knownPlaces(csvFile, [{ 'Part number': 'SC-1', Name: 'Bolt', price: '1', Colour: 'red' }]);
  expect(places[0]).toEqual({ address: 'Part number', label: 'Part number', examples: ['SC-1'] });
  expect(suggestLayout(part, places).filter(({ from }) => from !== '')).toEqual([
    { field: 'number', from: 'Part number' },
    { field: 'name', from: 'Name' },
    { field: 'price', from: 'price' },
  ]);
});

test('a file is laid out as those of its kind are, where their places are there, and else by names', () => {
  const other: RecordType = {
    ...part,
    name: 'crew',
    label: 'Crew',
    idField: 'name',
    fields: [{ name: 'name', label: 'Name', type: 'text' }],
  };
  const types = [
    { system: 'in', type: other },
    { system: 'in', type: part },
  ];
  const values = [{ 'Part number': 'SC-1', Price: '1', Note: 'x' }];
  const proposed = proposeLayout({ file: csv, values, types });
  expect(proposed?.recordType).toBe('part');
  expect(proposed?.layout.lines.filter(({ from }) => from !== '')).toEqual([
    { field: 'number', from: 'Part number' },
    { field: 'price', from: 'Price' },
  ]);
  // What somebody said goes before what is guessed, of whichever type.
  const usual = [{ field: 'name', from: 'Note' }];
  const said = [
    { system: 'in', type: other, usual },
    { system: 'in', type: part },
  ];
  expect(proposeLayout({ file: csv, values, types: said })).toMatchObject({
    recordType: 'crew',
    layout: { lines: usual },
  });
  // Where it finds less than the names do it does not fit.
  const less = [
    {
      system: 'in',
      type: part,
      usual: [
        { field: 'number', from: 'Part number' },
        { field: 'name', from: 'Bezeichnung' },
      ],
    },
  ];
  expect(
    proposeLayout({ file: csv, values, types: less })?.layout.lines.filter(({ from }) => from !== ''),
  ).toHaveLength(2);
  expect(proposeLayout({ file: csv, values, types: less })?.layout.lines).toContainEqual({
    field: 'price',
    from: 'Price',
  });
  const gone = [
    { system: 'in', type: other, usual: [{ field: 'name', from: 'Who' }] },
    { system: 'in', type: part },
  ];
  expect(proposeLayout({ file: csv, values, types: gone })?.recordType).toBe('part');
  const strange = [{ Zzz: '1' }];
  expect(proposeLayout({ file: csv, values: strange, types })).toBeUndefined();
  expect(proposeLayout({ file: csv, values: strange, types: types.slice(1) })?.recordType).toBe('part');
});

test('the beginning of a file says how it is read, and gives its first records', async () => {
  const bytes = new TextEncoder().encode('No;Name\n1;Bolt\n2;Nut\n');
  expect(await headOfFile({ name: 'parts.csv', bytes, whole: true })).toMatchObject({
    file: csv,
    problem: '',
    rows: [{ value: { No: '1', Name: 'Bolt' } }, { value: { No: '2' } }],
  });
  // Cut within a row: the last one may go on beyond the beginning.
  const cut = await headOfFile({ name: 'parts.csv', bytes: bytes.subarray(0, 17), whole: false });
  expect(cut.rows).toHaveLength(1);
  expect(
    await headOfFile({ name: 'x', bytes: new TextEncoder().encode('hello'), whole: true }),
  ).toMatchObject({
    file: null,
    problem:
      'It is of no kind that is read here: CSV, XLSX, JSON, JSON lines, XML, or tagged records (ISO 2709).',
  });
  expect(await headOfFile({ name: 'x', bytes: new Uint8Array(0), whole: true })).toMatchObject({
    problem: 'The file is empty.',
  });
});

test('a step of a tidy that cannot be done keeps its file from being applied, and one that fails its record', () => {
  const tidied = (only: string) =>
    compileLayout(
      {
        file: tagged,
        lines: [{ field: 'number', from: '001' }],
        tidy: [{ kind: 'remove', what: '59*', only }],
      },
      part,
      new Map(),
    );
  expect(tidied('PLACE(').problems).toEqual([
    {
      field: '',
      because: expect.stringContaining('Step 1 of what is tidied: The condition cannot be read') as string,
    },
  ]);
  const failing = tidied('1 / 0 > 1');
  expect(failing.problems).toEqual([]);
  const value = { leader: '00000nam a2200000   4500', fields: [{ tag: '001', data: 'SC-1' }] };
  expect(failing.lay(value, { time: '2026-01-01T00:00:00Z' })).toMatchObject({
    record: { number: 'SC-1' },
    problems: [{ field: '', because: expect.stringContaining('Step 1 of what is tidied') as string }],
  });
});

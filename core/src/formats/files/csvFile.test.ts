import fc from 'fast-check';
import { writeCsv } from '../csv';
import { csvFile, type CsvSettings } from './csvFile';
import { inParts, rowsOf } from './testFile';

const settings: CsvSettings = {
  kind: 'csv',
  encoding: 'utf-8',
  delimiter: ',',
  quote: '"',
  headAt: 1,
  headLines: 1,
};
const rows = (text: string | Uint8Array, other: Partial<CsvSettings> = {}, size = 7) =>
  rowsOf(csvFile, { ...settings, ...other }, text, size);
const recognised = (text: string | Uint8Array, name = 'file.csv') =>
  csvFile.recognise({
    name,
    bytes: typeof text === 'string' ? new TextEncoder().encode(text) : text,
    whole: true,
  });

test('rows have their cells by title, and their place as a person counts', async () => {
  expect(await rows('unit,port\r\nU1,Northport\r\nU2,Murrow\r\n')).toEqual([
    { ok: true, at: 2, place: 'row 2', value: { unit: 'U1', port: 'Northport' } },
    { ok: true, at: 3, place: 'row 3', value: { unit: 'U2', port: 'Murrow' } },
  ]);
});

// RFC 4180, section 2: rules 5 to 7 with the examples given there.
test.each([
  ['"aaa","bbb"\r\nzzz,yyy', { aaa: 'zzz', bbb: 'yyy' }],
  ['aaa,bbb\r\n"b \r\nbb","ccc"', { aaa: 'b \r\nbb', bbb: 'ccc' }],
  ['aaa,bbb\r\n"b""bb","ccc"', { aaa: 'b"bb', bbb: 'ccc' }],
])('%j is read as the standard says', async (text, value) => {
  expect(await rows(text, {}, 3)).toMatchObject([{ ok: true, value }]);
});

test('a row with other cells than titles is told of in its place, and the others go on', async () => {
  expect(await rows('a;b\n1;2\n3\n4;5\n6;7;8\n9;10;\n', { delimiter: ';' })).toEqual([
    { ok: true, at: 2, place: 'row 2', value: { a: '1', b: '2' } },
    { ok: false, at: 3, place: 'row 3', because: 'It has 1 cell, and there are 2 titles.', text: '3' },
    { ok: true, at: 4, place: 'row 4', value: { a: '4', b: '5' } },
    { ok: false, at: 5, place: 'row 5', because: 'It has 3 cells, and there are 2 titles.', text: '6,7,8' },
    // What a spreadsheet leaves beyond the last title is no cell.
    { ok: true, at: 6, place: 'row 6', value: { a: '9', b: '10' } },
  ]);
});

test('a mark of byte order and blank lines are no rows', async () => {
  expect(await rows('\ufeffa,b\n\n1,2\n\n')).toEqual([
    { ok: true, at: 3, place: 'row 3', value: { a: '1', b: '2' } },
  ]);
});

test('lines of one file that end differently are all lines, and what stands in quotes stays', async () => {
  const text = 'town,note\r\nMurrow,"a\r\nb"\nSkerry,c\rNorthport,"say ""\r"""\r\n';
  const read = await rows(text, {}, 1);
  expect(read.map((row) => row.ok && row.value)).toEqual([
    { town: 'Murrow', note: 'a\r\nb' },
    { town: 'Skerry', note: 'c' },
    { town: 'Northport', note: 'say "\r"' },
  ]);
});

test('titles over two lines are joined, one over several columns with each of them', async () => {
  const text = 'Parts list of May\nPart,,Price,\nNumber,Name,Amount,Currency\n7,Bolt,1.20,EUR\n';
  expect(await rows(text, { headAt: 2, headLines: 2 })).toMatchObject([
    {
      at: 4,
      value: {
        'Part / Number': '7',
        'Part / Name': 'Bolt',
        'Price / Amount': '1.20',
        'Price / Currency': 'EUR',
      },
    },
  ]);
});

test('without titles columns are called by their letters; titles that stand twice, or are missing, are told apart', async () => {
  expect(await rows('7,Bolt\n8,Nut\n', { headAt: 0 })).toMatchObject([
    { at: 1, value: { A: '7', B: 'Bolt' } },
    { at: 2, value: { A: '8', B: 'Nut' } },
  ]);
  expect(await rows('kg,,kg\n1,2,3\n')).toMatchObject([{ value: { kg: '1', B: '2', 'kg (2)': '3' } }]);
});

test('how a file is written is found out: delimiter, quote, encoding, and where its titles stand', () => {
  expect(recognised('Unit;Weight\nSKRU 1;12,5\n')).toEqual({ ...settings, delimiter: ';' });
  expect(recognised("'Unit'|'Weight'\n'SKRU 1'|'12'\n")).toEqual({ ...settings, delimiter: '|', quote: "'" });
  expect(recognised('Made by the agent\n\nUnit\tWeight\n1\t2\n')).toMatchObject({
    delimiter: '\t',
    headAt: 3,
  });
  expect(recognised('Made by the agent;;\nUnit;Weight;Seal\n1;2;\n')).toMatchObject({
    delimiter: ';',
    headAt: 2,
  });
  expect(recognised('1,2\n3,4\n')).toMatchObject({ headAt: 0 });
  // ä and ö in Windows-1252, after RFC 4180 lines.
  expect(recognised(Uint8Array.from([0x4e, 0xe4, 0x2c, 0x62, 0x0a, 0xf6, 0x2c, 0x31, 0x0a]))).toMatchObject({
    encoding: 'windows-1252',
  });
  const utf16 = new Uint8Array([...'a,b\n1,2\n'].flatMap((character) => [character.charCodeAt(0), 0]));
  expect(recognised(utf16)).toMatchObject({ encoding: 'utf-16le', delimiter: ',' });
  expect(recognised('{"a": 1}', 'file.json')).toBeUndefined();
});

test('a file in another encoding is read in it, and in a wrong one told row by row', async () => {
  const bytes = Uint8Array.from([0x74, 0x0a, 0x4e, 0xe4, 0x0a, 0x6f, 0x0a]);
  expect(await rows(bytes, { encoding: 'windows-1252' })).toMatchObject([
    { value: { t: 'Nä' } },
    { value: { t: 'o' } },
  ]);
  expect(await rows(bytes)).toMatchObject([
    {
      ok: false,
      place: 'row 2',
      because: 'It holds bytes that are no characters in Unicode (UTF-8); choose how the file is written.',
    },
    { ok: true, value: { t: 'o' } },
  ]);
});

test('a quote that is not closed, a million columns and a cell of 10 MB are told in a sentence each', async () => {
  expect(await rows('a,b\n1,"2\n3,4\n')).toMatchObject([
    { ok: false, place: 'row 2', because: expect.stringMatching(/^It is no CSV: .*[Qq]uote/) as string },
  ]);
  const wide = `${'x,'.repeat(1_000_000)}x\n1\n`;
  expect(await rows(wide, {}, 1_000_000)).toMatchObject([
    { ok: false, place: 'row 1', because: 'It has 1,000,001 columns; at most 2,000 are read.' },
  ]);
  const long = `a,b\n1,"${'x'.repeat(10_000_000)}"\n3,4\n`;
  const read = await rows(long, {}, 65_536);
  expect(read).toMatchObject([
    {
      ok: false,
      because: 'It is no CSV: it is longer than 4,000,000 characters; perhaps a quote is not closed.',
    },
    { ok: true, value: { a: '3', b: '4' } },
  ]);
});

test('law: what is written as CSV is read again, in parts of whatever size', async () => {
  const cell = fc.string({ maxLength: 8, unit: 'grapheme' }).map((text) => `x${text}`);
  const table = fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 6 });
  await fc.assert(
    fc.asyncProperty(table, fc.integer({ min: 1, max: 20 }), async (lines, size) => {
      const read = await rows(writeCsv([['one', 'two'], ...lines]), {}, size);
      expect(read.map((row) => row.ok && [row.value['one'], row.value['two']])).toEqual(lines);
    }),
  );
});

test('what stands in the cells does not say what stands between them', async () => {
  const text = 'one,two\r\nx;;,x\r\nx,x;;;\r\n';
  expect(recognised(text)).toMatchObject({ delimiter: ',' });
  const read = await rows(text, {}, 12);
  expect(read.map((row) => row.ok && row.value)).toEqual([
    { one: 'x;;', two: 'x' },
    { one: 'x', two: 'x;;;' },
  ]);
});

test('a file comes in parts that cut its characters', async () => {
  const read: unknown[] = [];
  for await (const rows of csvFile.read(inParts('town\nÅrvik – ø\n', 1), settings)) read.push(...rows);
  expect(read).toMatchObject([{ value: { town: 'Årvik – ø' } }]);
});

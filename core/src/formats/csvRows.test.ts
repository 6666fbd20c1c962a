import fc from 'fast-check';
import { writeCsv } from './csv';
import { csvRows } from './csvRows';
import type { FileRow } from './rowReader';

async function* inChunks(text: string, size: number) {
  for (let at = 0; at < text.length; at += size) yield Promise.resolve(text.slice(at, at + size));
}

async function rows(text: string, size = 7): Promise<readonly FileRow[]> {
  const read: FileRow[] = [];
  for await (const row of csvRows.read(inChunks(text, size))) read.push(row);
  return read;
}

test('rows have their cells by title, and their place as a person counts', async () => {
  expect(await rows('unit,port\r\nU1,Northport\r\nU2,Murrow\r\n')).toEqual([
    { ok: true, at: 2, place: 'row 2', cells: { unit: 'U1', port: 'Northport' } },
    { ok: true, at: 3, place: 'row 3', cells: { unit: 'U2', port: 'Murrow' } },
  ]);
});

// RFC 4180, section 2: rules 5 to 7 with the examples given there.
test.each([
  ['"aaa","bbb"\r\nzzz,yyy', { aaa: 'zzz', bbb: 'yyy' }],
  ['aaa,bbb\r\n"b \r\nbb","ccc"', { aaa: 'b \r\nbb', bbb: 'ccc' }],
  ['aaa,bbb\r\n"b""bb","ccc"', { aaa: 'b"bb', bbb: 'ccc' }],
])('%j is read as the standard says', async (text, cells) => {
  expect(await rows(text, 3)).toMatchObject([{ ok: true, cells }]);
});

test('a row with other cells than titles is told of in its place, and the others go on', async () => {
  expect(await rows('a;b\n1;2\n3\n4;5')).toEqual([
    { ok: true, at: 2, place: 'row 2', cells: { a: '1', b: '2' } },
    { ok: false, at: 3, place: 'row 3', because: 'it has 1 cells, and the first row has 2.', text: '3' },
    { ok: true, at: 4, place: 'row 4', cells: { a: '4', b: '5' } },
  ]);
});

test('a mark of byte order and blank lines are no rows', async () => {
  expect(await rows('\ufeffa,b\n\n1,2\n\n')).toEqual([
    { ok: true, at: 3, place: 'row 3', cells: { a: '1', b: '2' } },
  ]);
});

test('what stands in the cells does not say what stands between them', async () => {
  const read = await rows('one,two\r\nx;;,x\r\nx,x;;;\r\n', 12);
  expect(read.map((row) => row.ok && row.cells)).toEqual([
    { one: 'x;;', two: 'x' },
    { one: 'x', two: 'x;;;' },
  ]);
});

test('law: what is written as CSV is read again, in chunks of whatever size', async () => {
  const cell = fc.string({ maxLength: 8 }).map((text) => `x${text}`);
  const table = fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 6 });
  await fc.assert(
    fc.asyncProperty(table, fc.integer({ min: 1, max: 20 }), async (lines, size) => {
      const read = await rows(writeCsv([['one', 'two'], ...lines]), size);
      expect(read.map((row) => row.ok && [row.cells['one'], row.cells['two']])).toEqual(lines);
    }),
  );
});

import { gzipSync } from 'node:zlib';
import { gzipSync as gzipped, zipSync } from 'fflate';
import { inParts } from './testFile';
import { isWorkbook, NotUnpacked, unpacked } from './unpacked';

const text = 'number;name\n7;Bølt\n'.repeat(500);
const bytes = new TextEncoder().encode(text);

async function read(
  file: Uint8Array,
  { size = 300, most }: { readonly size?: number; readonly most?: number } = {},
) {
  const parts: Uint8Array[] = [];
  for await (const part of unpacked(inParts(file, size), most)) parts.push(part);
  return Buffer.concat(parts).toString('utf8');
}

test.each([
  ['as it is', bytes],
  ['packed by gzip', gzipSync(bytes)],
  ['packed by gzip in a few bytes', gzipSync(Buffer.from('a,b\n'))],
  ['in an archive', zipSync({ 'parts/': new Uint8Array(0), 'parts/may.csv': bytes })],
  ['of two bytes', new TextEncoder().encode('a\n')],
])('a file %s is read', async (_how, file) => {
  const expected = file.length < 30 ? (file.length === 2 ? 'a\n' : 'a,b\n') : text;
  expect(await read(file)).toBe(expected);
  expect(await read(file, { size: 7 })).toBe(expected);
});

test.each([
  [
    'two files',
    () => zipSync({ 'a.csv': bytes, 'b.csv': bytes }),
    'The archive holds “a.csv” and “b.csv”; send an archive with one file, or the files by themselves.',
  ],
  [
    'no file',
    () => zipSync({ 'only/a/folder/with/a/long/name/so/that/there/are/enough/bytes/': new Uint8Array(0) }),
    'The archive holds no file.',
  ],
  [
    'half of an archive',
    () => zipSync({ 'a.csv': bytes }).slice(0, 70),
    'The archive is damaged or cut off.',
  ],
  [
    'half of a gzip file',
    () => gzipSync(bytes).subarray(0, 60),
    'The file is packed by gzip, and it is damaged or cut off.',
  ],
  [
    'damage',
    () => Uint8Array.from([...gzipSync(bytes).subarray(0, 20), ...new Uint8Array(200).fill(255)]),
    'The file is packed by gzip, and it is damaged or cut off.',
  ],
])('%s: %#', async (_what, file, because) => {
  const failed = await read(file()).then(
    ({ length }) => `read ${length} characters`,
    ({ message }: Error) => message,
  );
  expect(failed).toBe(because);
});

test('what is packed so that it becomes very much is stopped on the way', async () => {
  const bomb = gzipped(new Uint8Array(60_000_000), { level: 9 });
  expect(bomb.length).toBeLessThan(100_000);
  await expect(read(bomb, { most: 1_000_000 })).rejects.toThrow(NotUnpacked);
  await expect(read(bomb, { most: 1_000_000 })).rejects.toThrow(
    'The file unpacks into more than 1 million bytes, which is more than is read here.',
  );
});

test('a workbook is an archive that stays one', async () => {
  const book = zipSync({ '[Content_Types].xml': bytes, 'xl/workbook.xml': bytes });
  expect(isWorkbook(book)).toBe(true);
  const parts: Uint8Array[] = [];
  for await (const part of unpacked(inParts(book, 50))) parts.push(part);
  expect(Buffer.concat(parts).equals(book)).toBe(true);
});

import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { Marc, Record as BuiltRecord } from 'marcjs';
import { readTagged, taggedIn, taggedRecords, writeTagged, type TaggedRecord } from './tagged';
import { taggedFile, type TaggedSettings } from './taggedFile';
import { at, inParts, rowsOf } from './testFile';

const settings: TaggedSettings = { kind: 'tagged', encoding: 'windows-1252' };
const encode = (text: string) => new TextEncoder().encode(text);
const decode = (bytes: Uint8Array) => new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);

/** Returns a record in bytes, or throws why it cannot be written. */
function written(record: TaggedRecord): Uint8Array {
  const done = writeTagged(record, encode);
  if (!done.ok) throw new Error(done.because);
  return done.bytes;
}

const leader = '00000nam a2200000   4500';
const part: TaggedRecord = {
  leader,
  fields: [
    { tag: '001', data: 'SC-4711' },
    { tag: '007', data: 'ab1234xyz' },
    {
      tag: '310',
      indicators: '  ',
      subfields: [
        ['a', 'Impeller'],
        ['b', 'bronze'],
      ],
    },
    {
      tag: '310',
      indicators: '1 ',
      subfields: [
        ['a', 'Impellor'],
        ['b', 'brass'],
        ['b', 'old'],
      ],
    },
    { tag: '954', indicators: '1#', subfields: [['c', 'Størling 40 mm']] },
  ],
};

/** The same record three times, the second one damaged. */
const damaged = () => {
  const one = written(part);
  const bad = one.slice();
  bad[30] = 0x78;
  return Uint8Array.from([...one, ...bad, ...one]);
};

test('a record is read: leader, plain fields, repeated fields with indicators and subfields', async () => {
  const [row] = await rowsOf(taggedFile, settings, written(part));
  expect(row).toMatchObject({ ok: true, place: 'record 1', at: 1, value: { fields: part.fields } });
});

// The lengths are counted by hand after ISO 2709:2008, section 4: leader 24, one entry 12, its end 1, field 8, its end 1, record end 1.
test('lengths and the beginning of the fields are computed as the standard says', () => {
  const bytes = written({ leader, fields: [{ tag: '001', data: 'SC-4711' }] });
  expect(decode(bytes)).toBe('00046nam a2200037   4500001000800000\u001eSC-4711\u001e\u001d');
});

test('records built by a library from the registry are read, and come back byte for byte', async () => {
  const built = new BuiltRecord();
  built.append(['001', 'SC-9']);
  built.append(['245', '10', 'a', 'Gasket ring', 'b', 'Ø 40 mm – 日本']);
  built.append(['954', '  ', 'c', 'one', 'c', 'two']);
  const bytes = encode(Marc.format(built, 'Iso2709'));
  const read = readTagged(bytes, { decode });
  expect(read).toMatchObject({
    ok: true,
    record: {
      fields: [
        { tag: '001', data: 'SC-9' },
        {
          tag: '245',
          indicators: '10',
          subfields: [
            ['a', 'Gasket ring'],
            ['b', 'Ø 40 mm – 日本'],
          ],
        },
        {
          tag: '954',
          indicators: '  ',
          subfields: [
            ['c', 'one'],
            ['c', 'two'],
          ],
        },
      ],
    },
  });
  expect(read.ok && decode(written(read.record))).toBe(decode(bytes));
  // And the library reads ours.
  const again = Marc.parse(Buffer.from(written(part)), 'Iso2709');
  expect(again.fields).toEqual([
    ['001', 'SC-4711'],
    ['007', 'ab1234xyz'],
    ['310', '  ', 'a', 'Impeller', 'b', 'bronze'],
    ['310', '1 ', 'a', 'Impellor', 'b', 'brass', 'b', 'old'],
    ['954', '1#', 'c', 'Størling 40 mm'],
  ]);
});

// Made from fixtures/parts.txt by the program yaz-marcdump of Debian's package yaz (5.34.0): yaz-marcdump -i line -o marc parts.txt
test('a file made by a program of Debian is read, and comes back byte for byte', async () => {
  const file = readFileSync(join(__dirname, 'fixtures/parts.mrc'));
  const rows = await rowsOf(taggedFile, settings, file, 64);
  expect(at(taggedFile, '954$c', rows[0])).toEqual(['12.50', '11.90']);
  expect(at(taggedFile, '954(2#)$c', rows[0])).toBe('11.90');
  expect(at(taggedFile, '007/0-1', rows[0])).toBe('vp');
  expect(at(taggedFile, '245$b', rows[1])).toBe('Ø 60 mm, žlutý');
  const back = rows.flatMap((row) => (row.ok ? [...written(taggedIn(row.value))] : []));
  expect(Buffer.from(back).equals(file)).toBe(true);
});

test.each([
  ['954$c', 'Størling 40 mm'],
  ['310$a', ['Impeller', 'Impellor']],
  ['310[2]$b', ['brass', 'old']],
  ['310[2]$b[2]', 'old'],
  ['310(1_)$a', 'Impellor'],
  ['310(##)$a', 'Impeller'],
  ['310[2].1', '1'],
  ['007/3-5', '234'],
  ['007/0', 'a'],
  ['leader/6', 'a'],
  ['001', 'SC-4711'],
  ['310[1]', 'Impeller bronze'],
  ['999$z', null],
  ['007/20-30', null],
])('%s gives %j', async (address, gives) => {
  const [row] = await rowsOf(taggedFile, settings, written(part));
  expect(at(taggedFile, address, row)).toEqual(gives);
});

test.each([
  ['95$c', '“95$c” is no place in a tagged record; one is written as 954$c, 310[2]$b, 007/3-5 or leader/9.'],
  ['954[0]$c', '“954[0]$c”: the first is [1].'],
  ['007/5-3', '“007/5-3”: the last position stands before the first.'],
  ['leader$a', '“leader$a”: the leader has positions alone, as in leader/9.'],
])('%s is refused: %s', (address, because) => {
  expect(taggedFile.address(address)).toEqual({ ok: false, because });
});

test('every part that is shown has an address that gives it', async () => {
  const [row] = await rowsOf(taggedFile, settings, written(part));
  if (row?.ok !== true) throw new Error('The record cannot be read.');
  const shown = taggedFile.shown(row.value).flatMap((each) => each.parts ?? [each]);
  expect(shown).toHaveLength(9);
  for (const { address = '', text } of shown)
    expect([address, at(taggedFile, address, row)]).toEqual([address, text]);
});

test('a broken record is told by its number, and the others go on', async () => {
  const rows = await rowsOf(taggedFile, settings, damaged());
  expect(rows.map((row) => (row.ok ? 'read' : `${row.place}: ${row.because}`))).toEqual([
    'read',
    'record 2: Its directory has an entry for field 001 that leads beyond the record.',
    'read',
  ]);
});

test.each([
  ['cut off', (bytes: Uint8Array) => bytes.slice(0, -3), 'The file is cut off within it.'],
  [
    'another length',
    (bytes: Uint8Array) => Uint8Array.from([...encode('00099'), ...bytes.slice(5)]),
    /^Its leader says that it has 99 bytes, and it has \d+\.$/,
  ],
  [
    'no length',
    (bytes: Uint8Array) => Uint8Array.from([...encode('abcde'), ...bytes.slice(5)]),
    'Its leader begins with “abcde”, where its length in five digits stands.',
  ],
  ['no record at all', () => encode('hello\u001d'), 'It has 6 bytes; a record has 26 at least.'],
])('a record with a fault (%s) says which', async (_what, fault, because) => {
  const [row] = await rowsOf(taggedFile, settings, fault(written(part)));
  expect(row).toMatchObject({
    ok: false,
    place: 'record 1',
    because: typeof because === 'string' ? because : (expect.stringMatching(because) as string),
  });
});

test('a record that does not say that it is Unicode is read in the encoding that is chosen', async () => {
  const latin = { leader: leader.replace(' a22', '  22'), fields: [{ tag: '001', data: 'Nä' }] };
  const done = writeTagged(latin, (text) =>
    Uint8Array.from([...text].map((character) => character.charCodeAt(0))),
  );
  if (!done.ok) throw new Error(done.because);
  expect(await rowsOf(taggedFile, settings, done.bytes)).toMatchObject([
    { ok: true, value: { fields: [{ data: 'Nä' }] } },
  ]);
  expect(await rowsOf(taggedFile, { ...settings, encoding: 'utf-8' }, done.bytes)).toMatchObject([
    {
      ok: false,
      because: 'It holds bytes that are no characters in Unicode (UTF-8); choose how the file is written.',
    },
  ]);
});

test('a record that is too long for the format is not written', () => {
  const long: TaggedRecord = {
    leader,
    fields: [{ tag: '500', indicators: '  ', subfields: [['a', 'x'.repeat(10_000)]] }],
  };
  expect(writeTagged(long, encode)).toEqual({
    ok: false,
    because: 'Field 500 has 10005 bytes, more than its directory can say.',
  });
});

test('law: what is written is read again, in parts of whatever size', async () => {
  const text = fc
    .string({ maxLength: 12, unit: 'grapheme' })
    .filter((each) => !['\u001d', '\u001e', '\u001f'].some((mark) => each.includes(mark)));
  const code = fc.constantFrom('a', 'b', '9');
  const field = fc.oneof(
    fc.record({ tag: fc.constantFrom('001', '007'), data: text }),
    fc.record({
      tag: fc.constantFrom('245', '954', 'Z01'),
      indicators: fc.constantFrom('  ', '1 ', '04'),
      subfields: fc.array(fc.tuple(code, text), { minLength: 1, maxLength: 4 }),
    }),
  );
  const records = fc.array(fc.array(field, { minLength: 1, maxLength: 6 }), { minLength: 1, maxLength: 4 });
  await fc.assert(
    fc.asyncProperty(records, fc.integer({ min: 1, max: 90 }), async (fields, size) => {
      const file = Uint8Array.from(fields.flatMap((each) => [...written({ leader, fields: each })]));
      const read = await rowsOf(taggedFile, settings, file, size);
      expect(read.map((row) => row.ok && row.value['fields'])).toEqual(fields);
      let at = 0;
      for await (const found of taggedRecords(inParts(file, size)))
        for (const { bytes } of found) {
          expect([...bytes]).toEqual([...file.subarray(at, at + bytes.length)]);
          at += bytes.length;
        }
      expect(at).toBe(file.length);
    }),
    { numRuns: 200 },
  );
});

/** What is written is read by the registry package `marcjs`, a second reader of ISO 2709. */
import fc from 'fast-check';
import { Marc } from 'marcjs';
import { writeTagged, type TaggedField, type TaggedRecord } from './tagged';
import { readTaggedText } from './taggedText';

const leader = '00000nam a2200000   4500';
const record: TaggedRecord = {
  leader,
  fields: [
    { tag: '001', data: 'SC-1001' },
    { tag: '245', indicators: '10', subfields: [['a', 'Påhengsmotor – 4 hk']] },
  ],
};
function textOf(of: TaggedRecord): string {
  const written = writeTagged(of, (text) => new TextEncoder().encode(text));
  if (!written.ok) throw new Error(written.because);
  return new TextDecoder().decode(written.bytes);
}
function read(text: string) {
  const held = readTaggedText(text);
  if (!held.ok) throw new Error(held.because);
  return held;
}

test('a record that a field holds is read, and written again as it was', () => {
  const text = textOf(record);
  const held = read(text);
  expect(held.record.fields).toEqual(record.fields);
  expect(held.write(held.record)).toEqual({ text });
  expect(Marc.parse(Buffer.from(text, 'utf8'), 'Iso2709').fields).toEqual([
    ['001', 'SC-1001'],
    ['245', '10', 'a', 'Påhengsmotor – 4 hk'],
  ]);
});

test('a record whose lengths count a byte for each character keeps them so, and takes no others', () => {
  const written = writeTagged(
    { leader: leader.replace('am a', 'am  '), fields: [{ tag: '001', data: 'Åse' }] },
    (text) => Uint8Array.from([...text], (sign) => sign.charCodeAt(0)),
  );
  if (!written.ok) throw new Error(written.because);
  const text = String.fromCharCode(...written.bytes);
  const held = read(text);
  expect(held.record.fields).toEqual([{ tag: '001', data: 'Åse' }]);
  expect(held.write(held.record)).toEqual({ text });
  expect(held.write({ ...held.record, fields: [{ tag: '001', data: '– 4' }] })).toEqual({
    because: 'It has characters that a record of its coding has no room for.',
  });
});

test.each([
  ['', 'It has 0 bytes; a record has 26 at least.'],
  [
    'Holds whatever somebody typed here.',
    'Its leader begins with “Holds”, where its length in five digits stands.',
  ],
  [textOf(record).slice(0, -4), expect.stringContaining('Its leader says that it has') as string],
])('%j is none, with the reason', (text, because) => {
  expect(readTaggedText(text)).toEqual({ ok: false, because });
});

const words = fc
  .string({ unit: 'grapheme', maxLength: 12 })
  // What ends fields and records is no part of them, and half a character is none.
  .map((text) => text.normalize('NFC').replaceAll(/\p{Cc}/gu, ''))
  .filter((text) => text.isWellFormed());
const field: fc.Arbitrary<TaggedField> = fc.oneof(
  fc.record({ tag: fc.constantFrom('001', '003', '007'), data: words }),
  fc.record({
    tag: fc.constantFrom('100', '245', '590', '954'),
    indicators: fc.constantFrom('  ', '10', '1 '),
    subfields: fc.array(fc.tuple(fc.constantFrom('a', 'b', '9'), words), { minLength: 1, maxLength: 3 }),
  }),
);

test('law: any record read from its text and written again is the same text', () => {
  fc.assert(
    fc.property(fc.array(field, { maxLength: 6 }), (fields) => {
      const text = textOf({ leader, fields });
      const held = read(text);
      expect(held.record.fields).toEqual(fields);
      expect(held.write(held.record)).toEqual({ text });
    }),
  );
});

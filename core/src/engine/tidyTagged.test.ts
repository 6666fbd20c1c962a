/**
 * Records that were tidied are written as ISO 2709 and read by the registry package `marcjs`, a second reader of the same format.
 */
import { Marc } from 'marcjs';
import { readTagged, writeTagged, type TaggedRecord } from '../formats/files/tagged';
import { compileTidy, taggedStepSchema, type TaggedStep } from './tidyTagged';

const record: TaggedRecord = {
  leader: '00000nam a2200000   4500',
  fields: [
    { tag: '001', data: 'SC-1001' },
    { tag: '007', data: 'kb' },
    {
      tag: '245',
      indicators: '10',
      subfields: [
        ['a', 'Impeller'],
        ['b', 'bronze'],
      ],
    },
    { tag: '310', indicators: '  ', subfields: [['a', 'HTRN']] },
    { tag: '590', indicators: '  ', subfields: [['a', 'shelf 4']] },
    { tag: '599', indicators: '  ', subfields: [['a', 'old']] },
    {
      tag: '954',
      indicators: '1 ',
      subfields: [
        ['c', '12.50'],
        ['d', 'GBP'],
      ],
    },
  ],
};
const time = '2026-03-09T10:00:00Z';
const tidied = (...steps: readonly TaggedStep[]) => {
  const compiled = compileTidy(steps);
  expect(compiled.problems).toEqual([]);
  return compiled.tidy(record, { time });
};
const changed = (...steps: readonly TaggedStep[]) =>
  tidied(...steps).fields.filter(({ before, after }) => before !== after);
const problemOf = (step: TaggedStep) => compileTidy([step]).problems[0]?.because;

test('fields are removed by a pattern of their tags, or one subfield of them', () => {
  expect(changed({ kind: 'remove', what: '59*', only: '' })).toEqual([
    { tag: '590', before: '## $ashelf 4' },
    { tag: '599', before: '## $aold' },
  ]);
  expect(changed({ kind: 'remove', what: '954$d', only: '' })).toEqual([
    { tag: '954', before: '1# $c12.50 $dGBP', after: '1# $c12.50' },
  ]);
  // A field of which nothing is left goes as well.
  expect(changed({ kind: 'remove', what: '310$a', only: '' })).toEqual([{ tag: '310', before: '## $aHTRN' }]);
});

test('a step is done only where its condition on another field holds', () => {
  const remove = (only: string) => changed({ kind: 'remove', what: '599', only }).length;
  expect(remove('PLACE("310$a") = "HTRN"')).toBe(1);
  expect(remove('PLACE("310$a") = "SKUA"')).toBe(0);
  expect(remove('ISBLANK(PLACE("856$u"))')).toBe(1);
});

test('steps see what those before them left', () => {
  expect(
    changed(
      { kind: 'remove', what: '310', only: '' },
      { kind: 'remove', what: '599', only: 'PLACE("310$a") = "HTRN"' },
    ).map(({ tag }) => tag),
  ).toEqual(['310']);
});

test('characters are put at a position of a fixed field, which grows where it is too short', () => {
  expect(changed({ kind: 'put', at: '007/1', characters: 'xyz', only: '' })).toEqual([
    { tag: '007', before: 'kb', after: 'kxyz' },
  ]);
  expect(changed({ kind: 'put', at: '007/4', characters: '7', only: '' })[0]?.after).toBe('kb  7');
  expect(changed({ kind: 'put', at: 'leader/5', characters: 'c', only: '' })).toEqual([
    { tag: 'leader', before: record.leader, after: '00000cam a2200000   4500' },
  ]);
});

test('a field is added in the order of tags where none is there, its texts as they are or by a formula', () => {
  const add = (tag: string): TaggedStep => ({
    kind: 'add',
    tag,
    indicators: '4#',
    subfields: [
      { code: 'u', text: '="https://parts.example/" & PLACE("001")' },
      { code: 'z', text: 'Data sheet' },
      { code: 'x', text: '=PLACE("999$a")' },
    ],
    only: '',
  });
  const { record: made, fields } = tidied(add('856'));
  expect(made.fields.map(({ tag }) => tag)).toEqual(['001', '007', '245', '310', '590', '599', '856', '954']);
  expect(fields.find(({ tag }) => tag === '856')).toEqual({
    tag: '856',
    after: '4# $uhttps://parts.example/SC-1001 $zData sheet',
  });
  expect(changed(add('310'))).toEqual([]);
});

test('a formula that fails leaves the record as it is, and says so', () => {
  const { record: same, problems } = tidied({ kind: 'remove', what: '***', only: '1 / 0 > 1' });
  expect(same).toEqual(record);
  expect(problems).toEqual([{ at: 0, because: expect.any(String) as string }]);
});

test.each<[string, TaggedStep, string]>([
  ['what names no fields', { kind: 'remove', what: '59', only: '' }, '“59” names no fields'],
  ['a condition that gives text', { kind: 'remove', what: '59*', only: '"x"' }, 'must give yes or no'],
  ['a condition that cannot be read', { kind: 'remove', what: '59*', only: 'PLACE(' }, 'cannot be read'],
  ['a place that there is not', { kind: 'remove', what: '59*', only: 'PLACE("95") = 1' }, 'cannot be read'],
  [
    'a position of a divided field',
    { kind: 'put', at: '245/3', characters: 'x', only: '' },
    'no position of a fixed field',
  ],
  [
    'a length in the leader',
    { kind: 'put', at: 'leader/3', characters: 'xx', only: '' },
    'which are computed',
  ],
  ['beyond the leader', { kind: 'put', at: 'leader/23', characters: 'xx', only: '' }, 'positions 0 to 23'],
  [
    'a tag of two characters',
    { kind: 'add', tag: '85', indicators: '##', subfields: [], only: '' },
    'is no tag',
  ],
  ['no subfields', { kind: 'add', tag: '856', indicators: '##', subfields: [], only: '' }, 'which subfields'],
])('%s is told', (_what, step, because) => {
  expect(problemOf(step)).toContain(because);
  expect(taggedStepSchema.validate(step).error).toBeUndefined();
});

test('what was tidied is a record that another reader reads alike', () => {
  const { record: made } = tidied(
    { kind: 'remove', what: '59*', only: '' },
    { kind: 'put', at: '007/0', characters: 'ké', only: '' },
    { kind: 'add', tag: '856', indicators: '4#', subfields: [{ code: 'u', text: 'Größe' }], only: '' },
  );
  const written = writeTagged(made, (text) => new TextEncoder().encode(text));
  if (!written.ok) throw new Error(written.because);
  expect(Marc.parse(Buffer.from(written.bytes), 'Iso2709').fields).toEqual([
    ['001', 'SC-1001'],
    ['007', 'ké'],
    ['245', '10', 'a', 'Impeller', 'b', 'bronze'],
    ['310', '  ', 'a', 'HTRN'],
    ['856', '4 ', 'u', 'Größe'],
    ['954', '1 ', 'c', '12.50', 'd', 'GBP'],
  ]);
  const own = readTagged(written.bytes, { decode: (bytes) => new TextDecoder().decode(bytes) });
  expect(own.ok && own.record.fields).toEqual(made.fields);
});

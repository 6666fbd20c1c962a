import { catalog, ref } from '../engine/testHarbour';
import { fieldsHolding, valueMatcher } from './matchValue';
import { verifyWrite } from './verifyWrite';

const type = catalog.recordType('book', 'company');
const write = {
  kind: 'edit' as const,
  ref: ref('company', 'C1'),
  edits: [
    { path: 'status', before: 'new', after: 'open' },
    { path: 'size', before: null, after: 4 },
  ],
};

describe('what a run wrote', () => {
  test.each([
    [{ status: 'open', size: '4' }, ['holds', 'holds']],
    [{ status: 'new', size: null }, ['never arrived', 'never arrived']],
    [{ status: 'shut', size: 5 }, ['changed since', 'changed since']],
    [undefined, ['gone', 'gone']],
  ])('beside a record that is %j', (record, standings) => {
    expect(verifyWrite(write, record, type).map(({ standing }) => standing)).toEqual(standings);
  });

  test('a removal holds while the record is not there', () => {
    const removal = { kind: 'remove' as const, ref: ref('company', 'C1'), record: { id: 'C1' } };
    expect(verifyWrite(removal, undefined, type)).toMatchObject([{ standing: 'holds' }]);
    expect(verifyWrite(removal, { id: 'C1' }, type)).toMatchObject([{ standing: 'changed since' }]);
  });
});

describe('a value that is looked for', () => {
  test.each([
    ['01632 960 120', '01632 960 120', 'exact'],
    ['01632 960 120', '+441632960120', 'normalised'],
    ['+44 1632 960 120', '01632960120', 'normalised'],
    ['01632 960 120', '+441632960121', undefined],
    ['north', 'North ', 'normalised'],
    ['N\u0301', 'n\u0301', 'normalised'],
    ['12', 12, 'exact'],
    ['12', 112, undefined],
    ['', '', 'exact'],
    ['a', null, undefined],
  ])('%j is found in %j: %s', (text, json, match) => {
    expect(valueMatcher(text)(json)).toBe(match);
  });

  test('is found inside objects and lists, and the field is named by its path', () => {
    const record = { id: '1', address: { town: 'Murrow' }, tags: ['x', 'murrow'], note: 'Murrow is far' };
    expect(fieldsHolding(record, valueMatcher('Murrow'))).toEqual([
      { path: 'address.town', value: 'Murrow', match: 'exact' },
      { path: 'tags', value: ['x', 'murrow'], match: 'normalised' },
    ]);
  });
});

import fc from 'fast-check';
import { rule } from '../engine/testHarbour';
import { differencesOfItems, itemsOf, nameOfItem, stateOfItem, textOfItem, type BundleItem } from './items';

test.each([
  ['new', undefined, 'b', undefined],
  ['same', 'a', 'a', undefined],
  ['changed in both', 'a', 'b', undefined],
  ['changed there', 'a', 'b', 'a'],
  ['changed here', 'b', 'a', 'a'],
  ['changed in both', 'b', 'c', 'a'],
  // Removed here since.
  ['changed here', undefined, 'a', 'a'],
  ['changed in both', undefined, 'b', 'a'],
])('%s: here %p, there %p, last in both %p', (state, here, there, base) => {
  expect(stateOfItem(here, there, base)).toBe(state);
});

test('what was taken over once is the same the next time, and what nobody changed there never counts as changed there', () => {
  const text = fc.constantFrom('a', 'b', 'c');
  fc.assert(
    fc.property(fc.option(text, { nil: undefined }), text, text, (here, there, base) => {
      expect(stateOfItem(there, there, there)).toBe('same');
      if (there === base) expect(stateOfItem(here, there, base)).not.toBe('changed there');
      if (here === base && here !== there) expect(stateOfItem(here, there, base)).toBe('changed there');
    }),
  );
});

const ruleItem = (name: string, folder = ''): BundleItem => ({
  kind: 'rule',
  key: '0192f3a0-0001-7000-8000-000000000001',
  content: { folder, rule: { ...rule([]), name } },
});
const tableItem = (rows: readonly (readonly string[])[]): BundleItem => ({
  kind: 'table',
  key: 'Ports',
  content: {
    name: 'Ports',
    columns: [
      { name: 'port', label: 'Port', type: 'text', key: true },
      { name: 'zone', label: 'Zone', type: 'text', key: false },
    ],
    rows: rows.map((row) => [...row]),
    matching: 'exact',
    onMiss: 'stop',
  },
});

test('a rule differs in the words of a rule, and in its folder', () => {
  expect(differencesOfItems(ruleItem('Zones'), ruleItem('Port zones', 'Ports'))).toEqual({
    changes: [
      { at: 'the rule, name', before: 'Zones', after: 'Port zones' },
      { at: 'folder', before: '', after: 'Ports' },
    ],
    more: 0,
  });
});

test('a table differs by rows, whichever stand before them', () => {
  const here = tableItem([
    ['Skarvøy', 'N1'],
    ['Holmen', 'S2'],
  ]);
  const there = tableItem([
    ['Aldra', 'N3'],
    ['Skarvøy', 'N1'],
    ['Holmen', 'S4'],
  ]);
  expect(differencesOfItems(here, there)).toEqual({
    changes: [
      { at: 'rows, Holmen, zone', before: 'S2', after: 'S4' },
      { at: 'rows, Aldra', after: '{"port":"Aldra","zone":"N3"}' },
    ],
    more: 0,
  });
});

test('whether a rule runs is no part of what is compared', () => {
  const items = (published: boolean) =>
    itemsOf({
      tables: [],
      rules: [{ id: '0192f3a0-0001-7000-8000-000000000001', published, rule: rule([]) }],
      samples: [],
    }).map(textOfItem);
  expect(items(true)).toEqual(items(false));
  expect(nameOfItem(ruleItem('Zones'))).toBe('Zones');
});

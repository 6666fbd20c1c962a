import type { LookupTable, Right, RuleView, SampleSummary, SystemView, TableSummary } from '@vast-knot/core';
import { known, ruleWith } from '../work/testWorld';
import { entriesOf, found, type SearchedEntry } from './entries';

const { id: _id, version: _version, ...draft } = ruleWith([], { note: 'For the harbour office.' });
const rule: RuleView = {
  id: 'r',
  draft,
  revision: 1,
  published: null,
  folder: '',
  changedAt: '',
  changedBy: null,
  paused: null,
  asked: null,
};
const running: RuleView = {
  ...rule,
  id: 'r2',
  draft: { ...rule.draft, name: 'Zone of a party', note: '' },
  published: {
    version: 1,
    body: { ...rule.draft, name: 'Zone of a party', note: '' },
    by: 'Mara',
    at: '',
    note: '',
  },
};
const sample = {
  id: 's1',
  name: 'Fish moves to Murrow',
  note: '',
  tags: [],
  ref: { system: 'book', recordType: 'company', id: 'C1' },
  kind: 'updated',
  changed: [],
  records: 1,
} as unknown as SampleSummary;
const all = (may: (right: Right) => boolean = () => true): readonly SearchedEntry[] =>
  entriesOf({
    rules: [rule, running],
    systems: known.systems as readonly SystemView[],
    tables: known.tables as unknown as readonly TableSummary[],
    wholeTables: known.tables as readonly LookupTable[],
    samples: [sample],
    may,
  });
const told = (text: string, entries = all()) =>
  found(entries, text).map(({ kind, entries: of }) => [
    kind,
    of.map(({ title, path }) => `${title} ${path}`),
  ]);

test('one text finds things of every kind, in one order of kinds', () => {
  expect(told('zone')).toEqual([
    ['Rules', ['Zone of a party /rules/r2']],
    ['Tables', ['Zones /tables/Zones']],
    ['Fields', ['zone /systems/desk?type=party&field=zone']],
    ['Rows of tables', ['Northport /tables/Zones?search=Northport', 'Murrow /tables/Zones?search=Murrow']],
  ]);
});

test('what is called so comes first, then what begins so, then what says it somewhere', () => {
  expect(told('party')[0]).toEqual(['Commands', ['Publish “Company to party” /rules/r?ask=publish']]);
  expect(found(all(), 'murrow').map(({ kind }) => kind)).toEqual(['Samples', 'Rows of tables']);
  expect(told('harbour office')).toEqual([['Rules', ['Company to party /rules/r']]]);
});

test('every word has to fit, and a blank text finds nothing', () => {
  expect(told('zone nowhere')).toEqual([]);
  expect(told('   ')).toEqual([]);
});

test('commands are offered to those who may do them', () => {
  expect(told('new table')).toEqual([['Commands', ['New table /tables?new=yes']]]);
  expect(
    told(
      'new table',
      all(() => false),
    ),
  ).toEqual([]);
  expect(
    told(
      'publish',
      all((right) => right !== 'rules.publish'),
    ),
  ).toEqual([]);
});

test('three hundred rules and sixty systems are looked through for every letter', () => {
  const fields = Array.from({ length: 25 }, (_none, at) => ({
    name: `field_${at}`,
    label: `Field ${at}`,
    type: 'text' as const,
  }));
  const many = entriesOf({
    rules: Array.from({ length: 300 }, (_none, at) => ({
      ...rule,
      id: `r${at}`,
      draft: { ...rule.draft, name: `Rule ${at}` },
    })),
    systems: Array.from({ length: 60 }, (_none, at) => ({
      key: `s${at}`,
      name: `System ${at}`,
      tag: 'SY',
      hue: at,
      recordTypes: Array.from({ length: 10 }, (_type, of) => ({
        name: `type_${of}`,
        label: `Type ${of}`,
        plural: `Types ${of}`,
        idField: 'id',
        nameField: 'name',
        fields,
      })),
    })) as unknown as readonly SystemView[],
    tables: [],
    wholeTables: [],
    samples: [],
    may: () => true,
  });
  expect(many.length).toBeGreaterThan(15_000);
  const kinds = found(many, 'rule 299');
  expect(kinds[1]?.entries.map(({ title }) => title)).toEqual(['Rule 299']);
  expect(found(many, 'e').every(({ entries }) => entries.length <= 6)).toBe(true);
});

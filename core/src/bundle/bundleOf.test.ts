import { compileRule } from '../engine/compileRule';
import type { RuleBody } from '../engine/rule';
import { parseJson } from '../model/jsonText';
import type { Sample } from '../model/sample';
import type { System } from '../model/system';
import type { LookupTable } from '../table/table';
import { readBundles, rulesIn, surroundingsIn } from './bundle';
import { bundleOf } from './bundleOf';
import { bundleText } from './files';

const system = (key: string, type: string): System => ({
  key,
  tag: key.slice(0, 2).toUpperCase(),
  name: key,
  hue: 10,
  recordTypes: [
    {
      name: type,
      label: type,
      plural: `${type}s`,
      idField: 'id',
      nameField: 'name',
      fields: [
        { name: 'id', label: 'Id', type: 'text' },
        { name: 'name', label: 'Name', type: 'text' },
      ],
    },
  ],
});
const table = (name: string): LookupTable => ({
  name,
  columns: [
    { name: 'from', label: 'From', type: 'text', key: true },
    { name: 'to', label: 'To', type: 'text', key: false },
  ],
  rows: [['a', 'b']],
  matching: 'exact',
  onMiss: 'stop',
});
const rule: RuleBody = {
  name: 'Name to party',
  note: '',
  trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['name'] },
  guard: '',
  finds: [
    {
      alias: 'party',
      system: 'desk',
      recordType: 'party',
      match: [{ field: 'id', is: 'equal', formula: 'id' }],
      none: 'stop',
      several: 'fail',
    },
  ],
  actions: [
    {
      kind: 'write',
      target: 'party',
      lines: [{ field: 'name', formula: 'TABLE("Names", name, "to")', policy: 'always' }],
    },
  ],
};
const id = '0192f3a0-0001-7000-8000-000000000001';

const wanting = { systems: [], addresses: [], tables: [], rules: [], samples: [] };
const sample = (last: number, recordType: string): Sample => ({
  id: `0192f3b0-0001-7000-8000-00000000000${last}`,
  name: `Sample ${last}`,
  note: '',
  event: {
    id: 'e1',
    source: '/book',
    kind: 'updated',
    ref: { system: 'book', recordType, id: 'C1' },
    time: '2026-03-09T09:00:00Z',
    record: { id: 'C1' },
    changed: [],
  },
  records: [],
});

test('rules come with the tables, systems and samples that they need, in one order, and nothing else', () => {
  const whole = {
    ...wanting,
    rules: [{ id, published: true, folder: 'Names', rule }],
    systems: ['yard', 'desk', 'book'].map((key) => ({
      system: system(key, key === 'desk' ? 'party' : 'company'),
    })),
    tables: [table('Ports'), table('Names')],
    samples: [sample(2, 'company'), sample(1, 'company'), sample(3, 'person')],
  };
  const bundle = bundleOf([id], whole);
  expect(bundle.systems.map(({ system: { key } }) => key)).toEqual(['book', 'desk']);
  expect(bundle.tables.map(({ name }) => name)).toEqual(['Names']);
  expect(bundle.samples.map(({ name }) => name)).toEqual(['Sample 1', 'Sample 2']);
  // The file stands by itself: it is read again, and its rules compile in it.
  const read = readBundles([{ file: 'rules.json', json: parseJson(bundleText(bundle)) }]);
  if (!read.ok) throw new Error(read.problems[0]?.message);
  expect(read.upgraded).toEqual([]);
  const [only] = rulesIn(read.bundle);
  expect(only && compileRule(only, surroundingsIn(read.bundle)).ok).toBe(true);
  // In another order it is the same file.
  const other = { ...whole, systems: [...whole.systems].reverse(), samples: [...whole.samples].reverse() };
  expect(bundleText(bundleOf([id], other))).toBe(bundleText(bundle));
});

test('a rule brings those whose actions it does, what these need, and the addresses that they send to by name', () => {
  const applied = id.replace(/1$/, '2');
  const applying = { ...rule, actions: [{ kind: 'apply' as const, rule: applied, target: 'party' }] };
  const sending: RuleBody = {
    ...rule,
    finds: [],
    actions: [{ kind: 'send', endpoint: 'harbour', type: 'company.told', parts: [] }],
  };
  const bundle = bundleOf([id], {
    ...wanting,
    rules: [
      { id: applied, published: false, rule: sending },
      { id, published: false, rule: applying },
    ],
    addresses: [
      { key: 'post', name: 'Post' },
      { key: 'harbour', name: 'Harbour office' },
    ],
  });
  expect(bundle.rules.map((each) => each.id)).toEqual([id, applied]);
  expect(bundle.addresses).toEqual([{ key: 'harbour', name: 'Harbour office' }]);
});

test('what the server adds to systems, tables and addresses is no part of the file', () => {
  const more = { ...system('book', 'company'), reached: 'connection', baseUrl: 'http://127.0.0.1:4100' };
  const text = bundleText(
    bundleOf([id], {
      ...wanting,
      rules: [{ id, published: false, rule }],
      systems: [{ system: more }],
      tables: [{ ...table('Names'), revision: 7 } as LookupTable],
    }),
  );
  expect(text).not.toMatch(/baseUrl|127\.0\.0\.1|revision/);
});

import type { Sample } from '@vast-knot/core';
import { rowsByRule } from './sampleRows';

const sample = (id: string): Sample => ({
  id,
  name: id,
  note: '',
  event: {
    id,
    source: '/book',
    kind: 'created',
    ref: { system: 'book', recordType: 'company', id },
    time: '2026-03-09T09:00:00Z',
    record: {},
    changed: [],
  },
  records: [],
});
const rules = [
  { id: 'r1', name: 'First' },
  { id: 'r2', name: 'Second' },
  { id: 'r3', name: 'Third' },
];
const results = new Map(
  Object.entries({ a: ['r2'], b: ['r1', 'r2'], c: [] }).map(([id, starts]) => [
    id,
    { id, verdict: 'holds' as const, differences: 0, starts },
  ]),
);
const told = (folded: readonly string[]) =>
  rowsByRule(['a', 'b', 'c'].map(sample), results, rules, new Set(folded)).map((row) =>
    row.kind === 'rule' ? `${row.name} (${row.samples})` : row.sample.id,
  );

test('samples stand under each rule that they start, in the order of the rules; others at the end', () => {
  expect(told([])).toEqual(['First (1)', 'b', 'Second (2)', 'a', 'b', 'No rule is started (1)', 'c']);
});

test('a folded rule shows how many it has, and none of them', () => {
  expect(told(['r2'])).toEqual(['First (1)', 'b', 'Second (2)', 'No rule is started (1)', 'c']);
});

test('while samples are still replayed, nothing is known of what they start', () => {
  const rows = rowsByRule([sample('a')], new Map(), rules, new Set());
  expect(rows.map(({ kind }) => kind)).toEqual(['rule', 'sample']);
});

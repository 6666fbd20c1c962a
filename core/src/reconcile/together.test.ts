import fc from 'fast-check';
import { catalog, compiled, find, line, rule, stored, write } from '../engine/testHarbour';
import { cascadesOf } from '../engine/cascade';
import type { Report, RuleReport } from '../engine/report';
import { runEvent } from '../engine/run';
import type { RuleBody } from '../engine/rule';
import { refKey, type StoredRecord } from '../model/record';
import { MemoryWorkspace } from '../workspace/memory';
import { existingEvent } from './existing';
import { together, type ForOne } from './together';

const company = (id: string, fields: StoredRecord['record'] = {}) => stored('company', id, fields);
const person = (id: string, fields: StoredRecord['record'] = {}) => stored('person', id, fields);

/** What a rule comes to for each of the companies, each by itself. */
async function forEach(body: RuleBody, records: readonly StoredRecord[]): Promise<readonly ForOne[]> {
  const rules = compiled([body]);
  const [one] = rules;
  if (!one) throw new Error('no rule');
  const workspace = new MemoryWorkspace(catalog, records);
  const all: ForOne[] = [];
  for (const each of records) {
    if (each.ref.recordType !== 'company') continue;
    const event = existingEvent(one, each, {
      id: 'look',
      time: '2026-03-09T09:00:00Z',
      existing: 'as its lines say',
    });
    all.push({
      ref: each.ref,
      report: (await runEvent(event, { catalog, rules, workspace, waits: true })).report,
    });
  }
  return all;
}

const toPeople = (key: string) =>
  rule([write('person', line('note', 'name'))], { finds: [find('person', 'company', key)] });

test('what each record would write by itself is written by one run, and says for which it is', async () => {
  const all = await forEach(toPeople('id'), [
    company('C1', { name: 'Skerry' }),
    company('C2', { name: 'Quarry' }),
    person('P1', { company: 'C1' }),
    person('P2', { company: 'C2' }),
  ]);
  const { writes, apart, rules } = together(all);
  expect(apart).toEqual([]);
  expect(writes.map(({ about, change }) => [about?.id, change.ref.id])).toEqual([
    ['C1', 'P1'],
    ['C2', 'P2'],
  ]);
  expect(rules.map(({ ref, verdict }) => [ref.id, verdict])).toEqual([
    ['C1', 'writes'],
    ['C2', 'writes'],
  ]);
  // The tree of what led to what begins with each of them.
  const [first] = all;
  if (!first) throw new Error('nothing');
  const trees = cascadesOf({ event: first.report.event, rules }, writes);
  expect(trees.map(({ ref, rules: of }) => [ref.id, of[0]?.records.map((each) => each.ref.id)])).toEqual([
    ['C1', ['P1']],
    ['C2', ['P2']],
  ]);
});

test('two that write to one record have runs of their own, and so has what does more than edit and remove', async () => {
  const shared = await forEach(toPeople('code'), [
    company('C1', { name: 'Skerry', code: 'x' }),
    company('C2', { name: 'Quarry', code: 'x' }),
    company('C3', { name: 'Tarn', code: 'y' }),
    person('P1', { company: 'x' }),
    person('P2', { company: 'y' }),
  ]);
  expect(together(shared).apart.map(({ id }) => id)).toEqual(['C1', 'C2']);
  expect(together(shared).writes.map(({ change }) => change.ref.id)).toEqual(['P2']);

  const [, , plain] = shared;
  if (!plain) throw new Error('nothing');
  const ownRun = (more: Partial<Report>) =>
    together([{ ref: plain.ref, report: { ...plain.report, ...more } }]).apart.length;
  expect(ownRun({})).toBe(0);
  expect(ownRun({ problems: ['It went round in a circle.'] })).toBe(1);
  expect(ownRun({ waiting: [{ ruleId: 'r', event: plain.report.event }] })).toBe(1);
  const [reported] = plain.report.rules;
  const failed: RuleReport[] = reported ? [{ ...reported, verdict: 'failed' }] : [];
  expect(ownRun({ rules: failed })).toBe(1);
  const [written] = plain.report.writes;
  if (!written) throw new Error('nothing is written');
  const ref = { ...plain.ref, id: 'new-1' };
  expect(ownRun({ writes: [{ ...written, change: { kind: 'create', ref, record: {} } }] })).toBe(1);
  expect(ownRun({ writes: [{ ...written, change: { kind: 'remove', ref, record: {} } }] })).toBe(0);
  const rules = { id: 'r', name: 'r', version: 1 };
  expect(
    ownRun({ messages: [{ id: 'm', endpoint: 'post', type: 't', ref: plain.ref, data: {}, rule: rules }] }),
  ).toBe(1);
});

test('law: every record is written together or has a run of its own, and together no record is written twice', async () => {
  const key = fc.constantFrom('a', 'b', 'c', 'd', 'e');
  await fc.assert(
    fc.asyncProperty(
      fc.array(key, { minLength: 1, maxLength: 6 }),
      fc.array(key, { maxLength: 8 }),
      async (codes, held) => {
        const records = [
          ...codes.map((code, at) => company(`C${at}`, { name: `n${at}`, code })),
          ...held.map((code, at) => person(`P${at}`, { company: code })),
        ];
        const all = await forEach(toPeople('code'), records);
        const { writes, apart, rules } = together(all);
        const written = writes.map(({ change }) => refKey(change.ref));
        expect(new Set(written).size).toBe(written.length);
        const here = new Set(rules.map(({ ref }) => ref.id));
        expect([...here, ...apart.map(({ id }) => id)].sort()).toEqual(all.map(({ ref }) => ref.id).sort());
        // Nothing of what is done apart is done here as well.
        expect(writes.every(({ about }) => about && here.has(about.id))).toBe(true);
      },
    ),
    { numRuns: 150 },
  );
});

import fc from 'fast-check';
import {
  catalog,
  compiled,
  find,
  line,
  ref,
  rule,
  run,
  stored,
  updated,
  write,
  written,
} from '../engine/testHarbour';
import { existingEvent } from '../reconcile/existing';
import { runEvent } from '../engine/run';
import type { PlannedWrite } from '../engine/report';
import { changedPaths } from '../model/equal';
import type { JsonObject } from '../model/json';
import { refKey, type StoredRecord } from '../model/record';
import { MemoryWorkspace } from '../workspace/memory';
import { undoOf, type MadeWrite } from './undo';

const edit = (id: string, path: string, before: string | null, after: string | null): MadeWrite => ({
  ref: ref('person', id),
  change: { kind: 'edit', ref: ref('person', id), edits: [{ path, before, after }] },
});
const now = (...records: StoredRecord[]) => new Map(records.map((each) => [refKey(each.ref), each]));
const person = (id: string, fields: JsonObject) => stored('person', id, fields);

test('a field that still holds what was written goes back, one that was changed since stays, and one that is back is left', () => {
  const made = [
    edit('P1', 'note', 'old', 'new'),
    edit('P1', 'status', null, 'open'),
    edit('P1', 'name', 'A', 'B'),
  ];
  const { records, writes } = undoOf(
    made,
    now(person('P1', { note: 'new', status: 'closed', name: 'A' })),
    catalog,
  );
  expect(records).toMatchObject([
    {
      deed: 'edit',
      standing: 'goes back',
      fields: [
        { path: 'note', before: 'old', written: 'new', now: 'new', standing: 'goes back' },
        { path: 'status', written: 'open', now: 'closed', standing: 'changed since' },
        { path: 'name', standing: 'is back' },
      ],
    },
  ]);
  expect(written(writes)).toEqual(['person/P1 note="old"']);
});

test('of several writes to a field what it held before the first comes back', () => {
  const made = [edit('P1', 'note', 'one', 'two'), edit('P1', 'note', 'two', 'three')];
  expect(written(undoOf(made, now(person('P1', { note: 'three' })), catalog).writes)).toEqual([
    'person/P1 note="one"',
  ]);
  expect(undoOf(made, now(person('P1', { note: 'two' })), catalog).records).toMatchObject([
    { standing: 'changed since' },
  ]);
});

test('a record that was created goes if nobody touched it; one that was removed comes again without its id', () => {
  const created: MadeWrite = {
    ref: ref('job', 'J1'),
    change: { kind: 'create', ref: ref('job', 'new-1-e'), record: { name: 'Weigh', owner: 'Mara' } },
  };
  const made = [created];
  const as = (fields: JsonObject) => now(stored('job', 'J1', fields));
  expect(
    written(undoOf(made, as({ name: 'Weigh', owner: 'Mara', day: '2026-01-01' }), catalog).writes),
  ).toEqual(['remove job/J1']);
  expect(undoOf(made, as({ name: 'Weigh', owner: 'Runa' }), catalog)).toMatchObject({
    records: [{ because: 'It stays, because somebody worked on it since: owner is not as it was created.' }],
    writes: [],
  });
  const touched = new Map([['desk/job/J1', 'day']]);
  expect(undoOf(made, as({ name: 'Weigh', owner: 'Mara' }), catalog, touched).writes).toEqual([]);
  expect(undoOf(made, now(), catalog).records).toMatchObject([{ standing: 'is back' }]);

  const removed: MadeWrite = {
    ref: ref('job', 'J2'),
    change: { kind: 'remove', ref: ref('job', 'J2'), record: { id: 'J2', name: 'Load', owner: 'Mara' } },
  };
  expect(written(undoOf([removed], now(), catalog).writes)).toEqual(['create job name="Load" owner="Mara"']);
  expect(undoOf([removed], now(stored('job', 'J2', { name: 'Load' })), catalog).writes).toEqual([]);
});

test('a record that is gone is told as such, and nothing is written', () => {
  const { records, writes } = undoOf([edit('P1', 'note', 'old', 'new')], now(), catalog);
  expect(records).toMatchObject([
    { standing: 'changed since', because: 'The record is not there any more.' },
  ]);
  expect(writes).toEqual([]);
});

/** Applies writes; gives what was made, with the ids that records got. */
async function settle(workspace: MemoryWorkspace, writes: readonly PlannedWrite[]): Promise<MadeWrite[]> {
  const results = await workspace.apply(writes);
  return writes.flatMap(({ change }, at) => {
    const result = results[at];
    return result?.ok ? [{ ref: { ...change.ref, id: result.id ?? change.ref.id }, change }] : [];
  });
}

async function asTheyAre(workspace: MemoryWorkspace, made: readonly MadeWrite[]) {
  const found = await Promise.all(made.map(({ ref: at }) => workspace.get(at)));
  return now(...found.flatMap((each) => each ?? []));
}

test('law: what a rule wrote and is taken back is as it was, and taking that back brings it again', async () => {
  const words = fc.constantFrom('', 'a', 'Skerry', 'open');
  const lines = fc.uniqueArray(
    fc.record({
      field: fc.constantFrom('note', 'status', 'name'),
      formula: fc.constantFrom('name', '"x"', '""', 'status'),
    }),
    { selector: ({ field }) => field, minLength: 1 },
  );
  const people = fc.array(fc.record({ name: words, status: words, note: words }), {
    minLength: 1,
    maxLength: 4,
  });
  await fc.assert(
    fc.asyncProperty(lines, people, words, words, async (of, all, name, status) => {
      const body = rule([write('person', ...of.map(({ field, formula }) => line(field, formula)))], {
        finds: [find('person', 'company', 'id')],
      });
      const records = [
        stored('company', 'C1', { name, status }),
        ...all.map((fields, at) => person(`P${at}`, { ...fields, company: 'C1' })),
      ];
      const workspace = new MemoryWorkspace(catalog, records);
      const [one] = compiled([body]);
      if (!one || !records[0]) return;
      const event = existingEvent(one, records[0], {
        id: 'l',
        time: '2026-03-09T09:00:00Z',
        existing: 'as its lines say',
      });
      const { report } = await runEvent(event, { catalog, rules: [one], workspace });
      const made = await settle(workspace, report.writes);
      const after = await asTheyAre(workspace, made);
      const undone = await settle(workspace, undoOf(made, after, catalog).writes);
      const fields = catalog.recordType('book', 'person')?.fields ?? [];
      for (const { ref: at, record } of records)
        expect(changedPaths(fields, record, (await workspace.get(at))?.record)).toEqual([]);
      await settle(workspace, undoOf(undone, await asTheyAre(workspace, undone), catalog).writes);
      for (const [, { ref: at, record }] of after)
        expect(changedPaths(fields, record, (await workspace.get(at))?.record)).toEqual([]);
    }),
    { numRuns: 150 },
  );
});

test('what a run of the engine planned is what is taken back, whatever it changed', async () => {
  const body = rule([write('person', line('note', 'name'))], { finds: [find('person', 'company', 'id')] });
  const records = [person('P1', { company: 'C1', note: 'old' })];
  const { writes } = await run(updated({ name: 'Skerry' }, { name: 'S' }), [body], records);
  const made = writes.map(({ change }) => ({ ref: change.ref, change }));
  const { writes: back } = undoOf(made, now(person('P1', { company: 'C1', note: 'Skerry' })), catalog);
  expect(written(back)).toEqual(['person/P1 note="old"']);
});

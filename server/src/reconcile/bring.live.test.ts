import { refKey, type Rule } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { bookingRef, companyRef, line, openHarbour, phoneToBookings, rule } from '../fixtures/harbour';
import { reconciling } from '../fixtures/reconciling';
import { retryRuns } from '../runs/repository';
import { failureGroups } from '../runs/failures';
import { readOutcome } from '../runs/outcome';
import { recordTimeline } from '../runs/timeline';
import { askToStop } from '../runs/repository';
import { runsToPreview } from '../undo/undoMany';
import { undoingOf } from '../undo/undoRun';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE inbox, runs, reconciles, jobs, images CASCADE'));

const { harbour, look, ask, work, view, records } = reconciling(() => database);

interface RunRow {
  readonly id: string;
  readonly recordId: string;
  readonly name: string | null;
  readonly result: string;
  readonly because: string | null;
}

/** Returns the runs that there are, the first first. */
async function runs(): Promise<readonly RunRow[]> {
  const { rows } = await database.pool.query<RunRow>(
    `SELECT id::text, record_id AS "recordId", record_name AS name, result, because FROM inbox ORDER BY id`,
  );
  return rows;
}

const outcomes = async (id: string, outcome: 'written' | 'failed' | 'skipped') =>
  (await records(id, { outcome })).map(({ recordId, run, skipped }) => [
    recordId,
    skipped ?? run?.because ?? '',
  ]);

test('many records are written by one run, which says of each write for which it was made and why', async () => {
  const at = harbour(30);
  const id = await look(at);
  const { job } = await ask(id, { filter: { standing: 'changes' } });
  await work(at, job);
  const [run, ...more] = await runs();
  expect(more).toEqual([]);
  expect(run).toMatchObject({ name: '16 companys', result: 'wrote', because: '16 records written.' });
  const written = await readOutcome(database.pool, run?.id ?? '');
  expect(written.map(({ about, change }) => [about?.id, change.ref.id])).toContainEqual(['C1', 'B1']);
  // What is told of one of them is told as of a run of its own.
  expect(await recordTimeline(database.pool, companyRef('C1'))).toMatchObject([
    { kind: 'event', event: 'reconciled', run: run?.id },
  ]);
  expect(await recordTimeline(database.pool, companyRef('C0'))).toEqual([]);
  expect(await recordTimeline(database.pool, bookingRef('B1'))).toMatchObject([
    {
      kind: 'write',
      source: companyRef('C1'),
      edits: [{ path: 'phone', before: 'old', after: '1', formula: 'phone' }],
    },
  ]);
  // And it is taken back as any other.
  const back = await undoingOf(database.pool, at.registry, { runs: [run?.id ?? ''] });
  expect(back.writes).toHaveLength(16);
  const one = refKey(bookingRef('B1'));
  expect(
    (await undoingOf(database.pool, at.registry, { runs: [run?.id ?? ''], only: [one] })).writes,
  ).toHaveLength(1);
});

test('a write that is refused is the trouble of its record alone, and is tried again with its run', async () => {
  const at = harbour(10);
  const id = await look(at);
  at.desk.failure = ({ change }) =>
    ['B1', 'B2'].includes(change.ref.id)
      ? { code: 'refused', message: 'It is locked.', retry: false }
      : undefined;
  const { job, count } = await ask(id, { filter: {} });
  await work(at, job);
  expect(await outcomes(id, 'failed')).toEqual([
    ['C1', 'It is locked.'],
    ['C2', 'It is locked.'],
  ]);
  expect(await view(id)).toMatchObject({ chosen: count, written: count - 2, failed: 2, underWay: 0 });
  expect((await failureGroups(database.pool, (rule) => rule)).groups).toMatchObject([
    { runs: 1, records: 2 },
  ]);
  const [run] = await runs();
  expect(run).toMatchObject({ result: 'partly failed' });
  at.desk.failure = undefined;
  await retryRuns(database.pool, [run?.id ?? '']);
  await work(at, job, { once: settled });
  expect(await view(id)).toMatchObject({ written: count, failed: 0 });
  expect(at.desk.taken).toHaveLength(count);
});

/** Waits until nothing waits. */
async function settled(): Promise<void> {
  for (;;) {
    const { rowCount } = await database.pool.query(`SELECT 1 FROM inbox WHERE state = 'waiting'`);
    if (rowCount === 0) return;
    await new Promise((done) => setTimeout(done, 10));
  }
}

test('what changes while it is on its way is left out and told, and the others are written once', async () => {
  const at = harbour(10);
  const id = await look(at);
  const met = at.desk.meanwhile('B2', () => at.desk.save('booking', 'B2', { phone: 'by hand' }));
  const { job, count } = await ask(id, { filter: {} });
  await work(at, job);
  expect(met()).toBe(true);
  expect(await outcomes(id, 'skipped')).toEqual([['C2', expect.stringMatching(/^It changed since/)]]);
  expect(await view(id)).toMatchObject({ written: count - 1, failed: 0, skipped: 1 });
  expect(at.desk.record('booking', 'B2')).toMatchObject({ phone: 'by hand' });
  const ids = at.desk.taken.map(({ change }) => change.ref.id);
  expect(new Set(ids).size).toBe(ids.length);
});

test('a record of which a part was written before it changed is left out, and its run is taken back with the look', async () => {
  const at = openHarbour(database.pool, {
    rules: [phoneToBookings],
    companies: [{ id: 'C1', name: 'One', phone: '1', rev: 1 }],
    bookings: ['B1', 'B2'].map((id) => ({ id, name: 'b', company: 'C1', phone: 'old', rev: 1 })),
  });
  const id = await look(at);
  at.desk.meanwhile('B2', () => at.desk.save('booking', 'B2', { phone: 'by hand' }));
  const { job } = await ask(id, { filter: {} });
  await work(at, job);
  expect(['B1', 'B2'].map((each) => at.desk.record('booking', each)?.['phone'])).toEqual(['1', 'by hand']);
  expect(await outcomes(id, 'skipped')).toEqual([
    ['C1', expect.stringMatching(/what was shown is written in part/)],
  ]);
  expect(await view(id)).toMatchObject({ chosen: 1, written: 0, failed: 0, skipped: 1, underWay: 0 });
  const [run] = await runs();
  expect(run).toMatchObject({ result: 'wrote' });
  expect(await runsToPreview(database.pool, { reconcile: id })).toEqual([run?.id]);
});

test('a record that was written and changed later stays written, also where its run is tried again for another', async () => {
  const at = harbour(10);
  const id = await look(at);
  at.desk.failure = ({ change }) =>
    change.ref.id === 'B2' ? { code: 'refused', message: 'It is locked.', retry: false } : undefined;
  const { job, count } = await ask(id, { filter: {} });
  await work(at, job);
  at.desk.failure = undefined;
  at.book.save('company', 'C1', { phone: '777' });
  at.desk.save('booking', 'B1', { phone: 'by hand' });
  const [run] = await runs();
  await retryRuns(database.pool, [run?.id ?? '']);
  await work(at, job, { once: settled });
  expect(await view(id)).toMatchObject({ written: count, failed: 0, skipped: 0 });
  expect(at.desk.record('booking', 'B1')).toMatchObject({ phone: 'by hand' });
});

test('what creates, tells, waits or fails, and two that write to one record, have runs of their own', async () => {
  const find = phoneToBookings.finds;
  const noteTown: Rule = rule(1, {
    name: 'Task of a company',
    trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: [] },
    finds: find.map((each) => ({ ...each, match: [{ field: 'company', is: 'equal', formula: 'town' }] })),
    actions: [{ kind: 'write', target: 'booking', lines: [line('note', 'note & target.note')] }],
  });
  const at = openHarbour(database.pool, {
    rules: [noteTown],
    companies: [
      { id: 'C1', name: 'One', town: 'x', note: 'a', rev: 1 },
      { id: 'C2', name: 'Two', town: 'x', note: 'b', rev: 1 },
      { id: 'C3', name: 'Three', town: 'y', note: 'c', rev: 1 },
    ],
    bookings: [
      { id: 'B1', name: 'b', company: 'x', note: '', rev: 1 },
      { id: 'B2', name: 'b', company: 'y', note: '', rev: 1 },
    ],
  });
  const id = await look(at, { rule: noteTown });
  const { job } = await ask(id, { filter: {} });
  await work(at, job);
  const all = await runs();
  expect(all.map(({ because }) => because)).toEqual([
    '1 record written, 2 have runs of their own.',
    '1 record written.',
    '1 record written.',
  ]);
  expect(all.slice(1).map(({ recordId }) => recordId)).toEqual(['C1', 'C2']);
  // Neither was lost: the second was computed from what the first had made of it.
  expect(String(at.desk.record('booking', 'B1')?.['note']).split('').sort()).toEqual(['a', 'b']);
  expect(await view(id)).toMatchObject({ written: 3, failed: 0, underWay: 0 });
});

test('a rule that was paused since it was handed over gives its records back, and they are written once it goes on', async () => {
  const at = harbour(10);
  const id = await look(at);
  const { job, count } = await ask(id, { filter: {} });
  const paused = new Set<string>();
  Object.assign(at.registry, { paused });
  // The job has handed over, and the book does not answer, when the rule is paused.
  at.book.away = true;
  const working = work(at, job);
  while ((await runs()).length === 0) await new Promise((done) => setTimeout(done, 2));
  paused.add(phoneToBookings.id);
  at.book.away = false;
  const given = `Nothing is written: ${count} were given back, because the rule does not run as it was looked at.`;
  while ((await runs())[0]?.because !== given) {
    await database.pool.query(`UPDATE inbox SET next_at = now() WHERE state = 'waiting'`);
    await new Promise((done) => setTimeout(done, 20));
  }
  expect(at.desk.taken).toEqual([]);
  paused.clear();
  await working;
  expect(await view(id)).toMatchObject({ written: count, failed: 0, skipped: 0 });
  expect(at.desk.taken).toHaveLength(count);
});

test('what a run wrote before its rule was paused stays with it, and can be taken back with the others', async () => {
  const at = harbour(10);
  const id = await look(at);
  const { job, count } = await ask(id, { filter: {} });
  const paused = new Set<string>();
  Object.assign(at.registry, { paused });
  at.desk.meanwhile('B2', () => {
    // Of one plan all but this were written when the rule is paused, and it has to be computed anew.
    at.desk.save('booking', 'B2', { note: 'by hand' });
    paused.add(phoneToBookings.id);
  });
  const working = work(at, job);
  while (!((await runs())[0]?.because ?? '').includes('1 was given back'))
    await new Promise((done) => setTimeout(done, 20));
  paused.clear();
  await working;
  expect(await view(id)).toMatchObject({ written: count, skipped: 0, failed: 0 });
  const { rows } = await database.pool.query<{ id: string; count: number }>(
    `SELECT run_id::text AS id, count(*)::integer AS count FROM reconcile_records WHERE run_id IS NOT NULL GROUP BY 1 ORDER BY 2`,
  );
  expect(rows.map((row) => row.count)).toEqual([1, count - 1]);
  const ids = at.desk.taken.map(({ change }) => change.ref.id);
  expect([new Set(ids).size, ids.length]).toEqual([count, count]);
});

test('a run that somebody stops tells with each record that it was not written', async () => {
  const at = harbour(10);
  const id = await look(at);
  at.desk.failure = () => ({ code: 'unavailable', message: 'Not now.', retry: true });
  const { job, count } = await ask(id, { filter: {} });
  const stopping = (async () => {
    for (;;) {
      const [run] = await runs();
      if (run && (await askToStop(database.pool, run.id, 'Ines')) !== undefined) return;
      await new Promise((done) => setTimeout(done, 5));
    }
  })();
  await work(at, job);
  await stopping;
  expect(await view(id)).toMatchObject({ written: 0, failed: count, underWay: 0 });
  expect((await outcomes(id, 'failed'))[0]?.[1]).toMatch(/Ines stopped/);
});

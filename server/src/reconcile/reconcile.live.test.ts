import { v7 as uuid } from 'uuid';
import type { ReconcileFilter } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyRef, phoneToBookings } from '../fixtures/harbour';
import { killingAt, reconciling } from '../fixtures/reconciling';
import { askToCancel, beginJob, readJob } from '../jobs/repository';
import { runJob } from '../jobs/runJob';
import { recordTimeline } from '../runs/timeline';
import { lookKind } from './look';
import { countRecords, groupRecords, insertReconcile, keepJudged, listRecords } from './repository';

jest.setTimeout(30_000);
let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE inbox, runs, reconciles, jobs, images CASCADE'));

const { harbour, parts, begun, look, ask, work, view, records } = reconciling(() => database);

test('every record is looked at, and how it stands is kept, in groups and by filter; nothing is written', async () => {
  const at = harbour(30);
  const id = await look(at);
  expect(await view(id)).toMatchObject({
    ruleName: 'Phone to bookings',
    version: 1,
    counts: { right: 8, changes: 16, cannot: 0, guard: 0, none: 6 },
    look: { state: 'done', done: 30, total: 30 },
    writing: null,
    chosen: 0,
  });
  expect(at.desk.taken).toEqual([]);
  const field = { about: 'desk/booking', path: 'phone' };
  expect(await groupRecords(database.pool, id, {}, 'field')).toEqual([
    { filter: field, deed: 'edit', count: 16 },
  ]);
  const values = await groupRecords(database.pool, id, {}, 'values');
  expect(values).toHaveLength(16);
  expect(await records(id, values[0]?.filter)).toHaveLength(1);
  expect(await groupRecords(database.pool, id, {}, 'cause')).toEqual([
    { filter: { standing: 'none', cause: expect.any(String) }, count: 6 },
  ]);
  expect(await records(id, { search: 'company 1' })).toHaveLength(11);
  expect(await countRecords(database.pool, id, { standing: 'changes', search: '100%' })).toEqual({
    total: 0,
    writable: 0,
  });
  expect(await countRecords(database.pool, id, {})).toEqual({ total: 30, writable: 16 });
  expect((await records(id, { standing: 'changes' }))[0]).toMatchObject({
    recordId: 'C1',
    name: 'Company 1',
    differences: [{ key: 'desk/booking/B1', deed: 'edit', path: 'phone', before: 'old', after: '1' }],
    run: null,
    chosen: false,
  });
});

test('what was chosen is written, and told with each record; a second look finds nothing to do', async () => {
  const at = harbour(30);
  const id = await look(at);
  const { job, count } = await ask(id, { filter: { standing: 'changes' }, without: ['C1'] });
  expect(count).toBe(15);
  await work(at, job);
  expect(await view(id)).toMatchObject({
    chosen: 15,
    written: 15,
    failed: 0,
    skipped: 0,
    underWay: 0,
    writing: { state: 'done' },
  });
  expect(at.desk.taken).toHaveLength(15);
  expect((await records(id, { outcome: 'written' }))[0]).toMatchObject({
    recordId: 'C2',
    run: { state: 'done', result: 'wrote' },
  });
  // The record itself did not change, and its timeline does not say so.
  expect(await recordTimeline(database.pool, companyRef('C2'))).toMatchObject([
    { event: 'reconciled', changed: [] },
  ]);
  // What is cleared away after months is still written.
  await database.pool.query('TRUNCATE inbox, runs CASCADE');
  expect(await view(id)).toMatchObject({ written: 15, underWay: 0 });
  expect(await countRecords(database.pool, id, { outcome: 'written' })).toMatchObject({ total: 15 });
  const again = await look(at);
  expect((await view(again)).counts).toMatchObject({ right: 23, changes: 1 });
  // What was written is not written again, and what was left out can be.
  expect((await ask(id, { filter: {} })).count).toBe(1);
});

test('what changed since it was looked at is left out, and says so; so is what is right or gone by now', async () => {
  const at = harbour(10);
  const id = await look(at);
  at.book.save('company', 'C1', { phone: 'new' });
  at.desk.save('booking', 'B2', { phone: 'by hand' });
  at.desk.save('booking', 'B5', { phone: '5' });
  at.book.drop('company', 'C7');
  const { job, count } = await ask(id, { ids: ['C1', 'C2', 'C5', 'C7', 'C8', 'C0', 'nobody'] });
  expect(count).toBe(5);
  await work(at, job);
  const left = await records(id, { outcome: 'skipped' });
  expect(left.map(({ recordId, skipped }) => [recordId, skipped])).toEqual([
    ['C1', expect.stringMatching(/^It changed since/)],
    ['C2', expect.stringMatching(/^It changed since/)],
    ['C5', 'It is right by now.'],
    ['C7', 'The record is not there any more.'],
  ]);
  expect(at.desk.taken.map(({ change }) => change.ref.id)).toEqual(['B8']);
});

test('killed again and again in the middle, it writes each record once', async () => {
  const at = harbour(260);
  const id = await look(at);
  const { job, count } = await ask(id, { filter: {} });
  // Of each part some are left out.
  const byHand = [1, 82, 151, 172, 206, 241];
  for (const n of byHand) at.desk.save('booking', `B${n}`, { phone: 'by hand' });
  const { pool, kills } = killingAt(database.pool, [
    // Those who hand over, and those who write, before and after each thing that they keep.
    'SELECT seq FROM reconcile_records',
    'UPDATE reconcile_records SET run_id = made.run',
    'UPDATE jobs SET memory',
    'INSERT INTO runs',
    'WITH anew AS (UPDATE reconcile_records',
    'UPDATE reconcile_records SET run_id = dealt.run',
    'INSERT INTO planned_writes',
    'UPDATE writes SET state',
    'UPDATE inbox SET state = tried.state',
    'FROM reconcile_records LEFT JOIN',
  ]);
  await work(at, job, {
    pool,
    once: async () => {
      for (;;) {
        await runJob(job, parts(at, pool)).catch(() => undefined);
        if ((await readJob(database.pool, job))?.state === 'done') return;
      }
    },
  });
  expect(kills()).toBe(10);
  expect(await view(id)).toMatchObject({
    chosen: count,
    written: count - byHand.length,
    skipped: byHand.length,
  });
  const ids = at.desk.taken.map(({ change }) => change.ref.id);
  expect(new Set(ids).size).toBe(ids.length);
  expect(ids).toHaveLength(count - byHand.length);
});

test('what an earlier version began, and was killed before it noted that, is not begun again', async () => {
  const at = harbour(10);
  const id = await look(at);
  const { job } = await ask(id, { ids: ['C1', 'C2'] });
  await database.pool.query('UPDATE reconcile_records SET chosen_by = $1 WHERE record_id = ANY ($2)', [
    job,
    ['C1', 'C2'],
  ]);
  await database.pool.query(`UPDATE jobs SET memory = '{"chosen": true}' WHERE id = $1`, [job]);
  await database.pool.query(
    `INSERT INTO inbox (system, source, event_id, record_type, record_id, kind, state, result)
     VALUES ('book', '/vast-knot/existing', $1, 'company', 'C1', 'updated', 'done', 'wrote')`,
    [`${id}/C1`],
  );
  await work(at, job);
  expect(await view(id)).toMatchObject({ chosen: 2, written: 2, underWay: 0 });
  expect(at.desk.taken.map(({ change }) => change.ref.id)).toEqual(['B2']);
});

test('a rule that was published anew since ends the writing with the reason', async () => {
  const at = harbour(6);
  const id = await look(at, { rule: { ...phoneToBookings, version: 7 } });
  const { job } = await ask(id, { filter: {} });
  await runJob(job, parts(at));
  expect(await readJob(database.pool, job)).toMatchObject({
    state: 'failed',
    problem:
      '“Phone to bookings” was published anew since it was looked at: version 1 runs now. Nothing more is written; look again.',
  });
  expect(at.desk.taken).toEqual([]);
});

test('while a system is away the look waits where it is, and says for what', async () => {
  const at = harbour(6);
  at.desk.away = true;
  const id = uuid();
  await insertReconcile(database.pool, {
    id,
    rule: phoneToBookings,
    existing: 'only blanks',
    askedBy: 'Mara',
  });
  await beginJob(database.pool, { id, kind: lookKind.kind, asked: { reconcile: id }, by: 'Mara' });
  const looking = runJob(id, parts(at));
  while (((await readJob(database.pool, id))?.waits ?? null) === null)
    await new Promise((done) => setTimeout(done, 20));
  expect((await view(id)).look).toMatchObject({ state: 'at work', done: 0 });
  at.desk.away = false;
  await looking;
  expect((await view(id)).look).toMatchObject({ state: 'done', done: 6, waits: null });
  // Every booking holds something already.
  expect((await view(id)).counts.changes).toBe(0);
});

test('what a job that was stopped has not begun is under way no more, and can be chosen again', async () => {
  const at = harbour(6);
  const id = await look(at);
  const { job, count } = await ask(id, { filter: {} });
  await askToCancel(database.pool, job);
  await runJob(job, parts(at));
  expect(await readJob(database.pool, job)).toMatchObject({ state: 'cancelled' });
  expect(await view(id)).toMatchObject({ written: 0, underWay: 0 });
  expect((await records(id, { standing: 'changes' })).map(({ chosen }) => chosen)).toEqual(
    Array(count).fill(false),
  );
  const again = await ask(id, { filter: {} });
  expect(again.count).toBe(count);
  await work(at, again.job);
  expect(await view(id)).toMatchObject({ written: count, underWay: 0 });
});

test('a record that comes on two pages is kept once, whether it is right or not', async () => {
  const at = harbour(9);
  // Somebody removes a record while they are read, so that each page has the last of the one before.
  at.book.page = async ({ type, cursor }) => {
    const all = await at.book.find(type, []);
    const from = Number(cursor ?? 0);
    return { records: all.slice(from, from + 3), next: from + 3 < all.length ? String(from + 2) : null };
  };
  const id = await look(at);
  expect((await records(id)).map(({ recordId }) => recordId).sort()).toEqual(
    Array.from({ length: 9 }, (_none, n) => `C${n}`),
  );
  expect(Object.values((await view(id)).counts).reduce((sum, count) => sum + count, 0)).toBe(9);
});

test('those that are right are listed after the others, page by page, and are found by their names', async () => {
  const at = harbour(30);
  const id = await look(at);
  const list = async (after: string, filter: ReconcileFilter = {}) =>
    listRecords(database.pool, id, filter, { after, limit: 7 });
  const all: string[] = [];
  for (let page = await list('0'); page.length > 0; page = await list(page.at(-1)?.seq ?? ''))
    all.push(...page.map(({ recordId, standing }) => `${recordId} ${standing}`));
  expect(new Set(all).size).toBe(30);
  expect(all.slice(-8).every((line) => line.endsWith(' right'))).toBe(true);
  expect((await list('0', { standing: 'right' })).map(({ recordId }) => recordId)).toEqual([
    'C0',
    'C3',
    'C6',
    'C12',
    'C15',
    'C18',
    'C21',
  ]);
  expect((await list('0', { standing: 'right', search: 'company 27' })).map(({ name }) => name)).toEqual([
    'Company 27',
  ]);
  expect(await countRecords(database.pool, id, { standing: 'right' })).toEqual({ total: 8, writable: 0 });
});

test('where a system gives all of its records as one page, each of them is listed once', async () => {
  const id = uuid();
  await insertReconcile(database.pool, {
    id,
    rule: phoneToBookings,
    existing: 'as its lines say',
    askedBy: 'Mara',
  });
  const page = (from: number, count: number) => ({
    right: {
      ids: Array.from({ length: count }, (_none, at) => `C${from + at}`),
      names: Array.from({ length: count }, () => ''),
    },
    others: [],
    before: from,
  });
  await keepJudged(database.pool, id, page(0, 12_000));
  await keepJudged(database.pool, id, page(12_000, 3));
  const all: string[] = [];
  for (let after = '0', more = true; more;) {
    const some = await listRecords(database.pool, id, {}, { after, limit: 5000 });
    all.push(...some.map(({ recordId }) => recordId));
    more = some.length > 0;
    after = some.at(-1)?.seq ?? after;
  }
  expect(all).toHaveLength(12_003);
  expect(new Set(all).size).toBe(12_003);
});

test('what a process kept beyond the place it told of, before it was killed, counts once', async () => {
  const at = harbour(30);
  const id = await begun();
  // The other process judged other records by then: one that is right now would change, and the other way round.
  const other = {
    standing: 'changes',
    because: '',
    differences: [],
    recordId: 'C0',
    name: 'Company 0',
  } as const;
  await keepJudged(database.pool, id, {
    right: { ids: ['C1', 'C2'], names: ['a', 'b'] },
    others: [other],
    before: 0,
  });
  await keepJudged(database.pool, id, { right: { ids: ['C9'], names: ['c'] }, others: [], before: 7 });
  await runJob(id, parts(at));
  const all = await records(id);
  expect(all).toHaveLength(30);
  expect(all.find(({ recordId }) => recordId === 'C0')?.standing).toBe('right');
  expect(all.find(({ recordId }) => recordId === 'C1')?.standing).toBe('changes');
  expect((await view(id)).counts).toEqual({ right: 8, changes: 16, none: 6, cannot: 0, guard: 0 });
});

test('a look that an earlier version began goes on from its place', async () => {
  const at = harbour(30);
  const id = await begun();
  const other = {
    standing: 'changes',
    because: '',
    differences: [],
    recordId: 'C1',
    name: 'Company 1',
  } as const;
  await keepJudged(database.pool, id, { right: { ids: ['C0'], names: ['a'] }, others: [other], before: 0 });
  await database.pool.query('UPDATE jobs SET memory = $2 WHERE id = $1', [
    id,
    { cursor: '2', done: 2, total: 30 },
  ]);
  await runJob(id, parts(at));
  expect(await records(id)).toHaveLength(30);
});

test('while its rule is paused nothing is written, and it is said why; then each is written once', async () => {
  const at = harbour(10);
  const id = await look(at);
  const { job, count } = await ask(id, { filter: {} });
  const paused = { ...at, registry: { ...at.registry, paused: new Set([phoneToBookings.id]) } };
  const stopped = { now: false };
  const waiting = runJob(job, { ...parts(paused), stopping: () => stopped.now });
  const waits = async () => (await readJob(database.pool, job))?.waits;
  while (!(await waits())) await new Promise((done) => setTimeout(done, 20));
  expect(await waits()).toBe('“Phone to bookings” is paused.');
  stopped.now = true;
  await waiting;
  expect(at.desk.taken).toEqual([]);
  expect(await view(id)).toMatchObject({ written: 0 });
  await work(at, job);
  expect(await view(id)).toMatchObject({ written: count });
});

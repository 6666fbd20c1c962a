import {
  WrittenSoFar,
  type ChangeEvent,
  type PlannedWrite,
  type RecordChange,
  type Report,
} from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { bookingRef, companyEvent, companyRef } from '../fixtures/harbour';
import { together } from '../db/pool';
import { accept, notingTried } from '../inbox/inbox';
import { nextOf } from './next';
import { writesOnTheirWay } from './onTheirWay';
import { changedSince, fieldKey, readOutcome, readProgress, writtenBy } from './outcome';
import {
  countWrites,
  creationsOf,
  firstIn,
  giveUpOpen,
  notingSending,
  notingWrites,
  plannedOf,
  storePlan,
  waitingWrites,
  doneSoFar,
  type WaitingWrite,
} from './plan';
import { listRuns, readRun } from './list';
import {
  askToStop,
  beginRuns,
  ownWriteBecause,
  firstRunAfter,
  keepingComputed,
  notingRuns,
  pastPayloads,
  readPayload,
  retryRuns,
  stoppedBy,
} from './repository';
import { recordTimeline } from './timeline';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

const by = { id: '00000000-0000-7000-8000-000000000001', name: 'Phone to bookings', version: 3 };
const edit = (id: string, after: string): RecordChange => ({
  kind: 'edit',
  ref: bookingRef(id),
  edits: [{ path: 'phone', before: '1', after }],
});
const planned = (change: RecordChange, more: Partial<PlannedWrite> = {}): PlannedWrite => ({
  change,
  rules: [by],
  depth: 0,
  before: change.kind === 'create' ? {} : { id: change.ref.id, phone: '1' },
  ...more,
});
const reportOf = (event: ChangeEvent, writes: readonly PlannedWrite[]): Report => ({
  event,
  rules: [
    {
      ruleId: by.id,
      ruleName: by.name,
      version: by.version,
      depth: 0,
      ref: event.ref,
      verdict: 'writes',
      because: 'Writes 1 record.',
      steps: [],
    },
  ],
  writes,
  messages: [],
  waiting: [],
  problems: [],
});

const noted = (settled: Parameters<typeof notingWrites>[0]) =>
  together(database.pool, ...notingWrites(settled));

/** Stores a plan; returns its writes. */
async function stored(runId: string, plan: number, planned: readonly PlannedWrite[]) {
  return (await storePlan(database.pool, { runId, plan, planned })) ?? [];
}
const runSoFar = async (company: string) =>
  (await nextOf(database.pool, [companyRef(company)])).get(`book/company/${company}`)?.run;

/** A run of a company's change with what it planned. */
async function begun(company: string, writes: readonly PlannedWrite[] = []) {
  const { pool } = database;
  const { claimed: _claimed, ...told } = companyEvent({ id: company, name: company, phone: '2' });
  const id = (await accept(pool, { ...told, claimed: [] })) ?? '';
  const event: ChangeEvent = { ...told, changed: ['phone'] };
  await beginRuns(pool, [{ id, event }]);
  await pool.query(keepingComputed([{ id, plan: 1, atTry: 0, report: reportOf(event, writes), met: [] }]));
  const waiting = await stored(id, 1, writes);
  return { id, event, waiting };
}

const settled = (
  { runId, plan, seq, planned: { change } }: WaitingWrite,
  state: 'written' | 'failed' | 'refused',
  id?: string,
) => ({
  runId,
  plan,
  seq,
  ref: { ...change.ref, id: id ?? change.ref.id },
  state,
  problem: state === 'written' ? null : `It ${state}.`,
});

describe('a plan', () => {
  test('is kept in its order: what others follow from first, and creations before edits', async () => {
    const made = planned({ kind: 'create', ref: bookingRef('new-1'), record: { name: 'X' } });
    const deep = planned(edit('B2', '2'), { depth: 1, cause: bookingRef('B1') });
    const { id, waiting } = await begun('R1', [deep, planned(edit('B1', '2')), made]);
    expect(waiting.map((write) => write.planned.change.ref.id)).toEqual(['new-1', 'B1', 'B2']);
    expect(await plannedOf(database.pool, id)).toEqual([made, planned(edit('B1', '2')), deep]);
    const open = await waitingWrites(database.pool, id, undefined, 10);
    // What was marked as on its way may have been sent before.
    expect(open).toEqual(
      waiting.map(({ onItsWay, ...write }) => ({ ...write, ...(onItsWay && { again: true }) })),
    );
    expect(await waitingWrites(database.pool, id, open[0], 1)).toEqual([open[1]]);
  });

  test('that is made anew keeps the keys of its creations, gives other keys to its edits, and creates nothing twice', async () => {
    const { pool } = database;
    const made = planned({ kind: 'create', ref: bookingRef('new-2'), record: { name: 'X' } });
    const { id, waiting } = await begun('R2', [made, planned(edit('B3', '2'))]);
    const again = await stored(id, 2, [made, planned(edit('B3', '2'))]);
    expect(again[0]?.key).toBe(waiting[0]?.key);
    expect(again[1]?.key).not.toBe(waiting[1]?.key);
    const [first] = waiting;
    if (first) await noted([settled(first, 'written', 'B-77')]);
    const third = await stored(id, 3, [made, planned(edit('B3', '2'))]);
    expect(third.map((write) => write.planned.change.kind)).toEqual(['edit']);
    expect((await creationsOf(pool, id)).given).toEqual(new Map([['new-2', 'B-77']]));
    expect(WrittenSoFar.of(await doneSoFar(pool, id)).isCreated(bookingRef('B-77'))).toBe(true);
  });

  test('tells what is on its way, until its result is noted', async () => {
    const { pool } = database;
    await pool.query('DELETE FROM flights');
    const { id, waiting } = await begun('R3', [
      planned(edit('B4', '2')),
      planned({ kind: 'create', ref: { ...bookingRef('new-3'), recordType: 'task' }, record: {} }),
      planned({ kind: 'remove', ref: bookingRef('B5'), record: { id: 'B5' } }),
    ]);
    const refs = [bookingRef('B4'), bookingRef('B5'), { ...bookingRef('T9'), recordType: 'task' }];
    const asked = refs.map((ref) => ({ ref }));
    // Those of a plan that go first are marked as on their way when it is stored: here the creation.
    expect((await writesOnTheirWay(pool, asked)).edits.size).toBe(0);
    await pool.query(notingSending(waiting));
    const { edits, creating } = await writesOnTheirWay(pool, asked);
    expect([...edits.keys()].sort()).toEqual(['desk/booking/B4', 'desk/booking/B5']);
    expect(edits.get('desk/booking/B4')?.edits).toEqual([{ path: 'phone', before: '1', after: '2' }]);
    expect(creating).toEqual(new Set(['desk/task/T9']));
    const ofOwnRun = asked.map((each) => ({ ...each, exceptRun: id }));
    expect((await writesOnTheirWay(pool, ofOwnRun)).edits.size).toBe(0);
    expect((await writesOnTheirWay(pool, ofOwnRun)).creating.size).toBe(0);
    expect((await readOutcome(pool, id)).map(({ state }) => state)).toEqual([
      'sending',
      'sending',
      'sending',
    ]);
    await noted(waiting.map((write) => settled(write, 'written')));
    expect((await writesOnTheirWay(pool, asked)).edits.size).toBe(0);
  });

  test('counts what came of it, and names the first that went wrong', async () => {
    const { pool } = database;
    const { id, waiting } = await begun(
      'R4',
      [1, 2, 3].map((at) => planned(edit(`B1${at}`, '2'))),
    );
    const [one, two, three] = waiting;
    if (!one || !two || !three) throw new Error('three writes wait');
    await noted([settled(one, 'written'), settled(two, 'refused'), settled(three, 'failed')]);
    expect(await countWrites(pool, id)).toMatchObject({ written: 1, refused: 1, failed: 1, planned: 0 });
    expect(await firstIn(pool, id, 'refused')).toEqual({
      recordType: 'booking',
      id: 'B12',
      problem: 'It refused.',
    });
    expect(await readProgress(pool, id)).toEqual({ written: 1, planned: 3 });
    await giveUpOpen(pool, id, 'Stopped.');
    expect(await countWrites(pool, id)).toMatchObject({ written: 1, refused: 1, skipped: 1 });
  });

  test('shows a created record under the id that its system gave it', async () => {
    const { pool } = database;
    const made = planned({ kind: 'create', ref: bookingRef('new-4'), record: { name: 'X' } });
    const { id, waiting } = await begun('R5', [made]);
    await noted(waiting.map((write) => settled(write, 'written', 'B-88')));
    expect(
      (await readOutcome(pool, id)).map(({ change, rules }) => [change.kind, change.ref.id, rules]),
    ).toEqual([['create', 'B-88', [by]]]);
    expect((await writtenBy(pool, [id], 10)).map(({ ref }) => ref.id)).toEqual(['B-88']);
  });
});

describe('a run', () => {
  test('knows its event, its report and its plans from one try to the next', async () => {
    const { pool } = database;
    const { id, event } = await begun('R6', [planned(edit('B20', '2'))]);
    expect(await runSoFar('R6')).toMatchObject({ event, plans: 1, plannedTry: 0, stoppedBy: null });
    expect((await readPayload(pool, id))?.report?.rules[0]?.ruleId).toBe(by.id);
    expect((await pastPayloads(pool, { before: null, limit: 1 }))[0]?.id).toBe(id);
    expect(await runSoFar('R999')).toBeUndefined();
  });

  test('of our own write is done as it begins, and keeps no event', async () => {
    const { pool } = database;
    const { claimed: _claimed, ...told } = companyEvent({ id: 'R7' });
    const id = (await accept(pool, { ...told, claimed: [] })) ?? '';
    await beginRuns(pool, [
      { id, event: { ...told, changed: [] }, ended: { result: 'own write', because: ownWriteBecause } },
    ]);
    expect(await runSoFar('R7')).toMatchObject({
      ended: { result: 'own write', because: ownWriteBecause },
      event: null,
    });
    await pool.query(
      notingTried([{ id, state: 'done', because: ownWriteBecause, waitMs: 0, result: 'own write' }]),
    );
    expect(await readPayload(pool, id)).toBeUndefined();
    expect(await readRun(pool, id)).toMatchObject({ result: 'own write' });
    expect((await listRuns(pool, { own: 'hidden' }, 100)).map((run) => run.id)).not.toContain(id);
    expect((await listRuns(pool, { own: 'shown' }, 100)).map((run) => run.id)).toContain(id);
  });

  test('that was refused for good is computed anew when it is tried again', async () => {
    const { pool } = database;
    const { id, waiting } = await begun('R8', [planned(edit('B21', '2'))]);
    await noted(waiting.map((write) => settled(write, 'refused')));
    expect((await retryRuns(pool, [id])).get(id)).toBeUndefined();
    await pool.query(
      notingTried([{ id, state: 'failed', because: 'Refused.', waitMs: 0, result: 'failed' }]),
    );
    await pool.query(notingRuns([{ id, anew: false, done: true, result: 'failed', because: 'Refused.' }]));
    expect((await retryRuns(pool, [id])).get(id)).toEqual(companyRef('R8'));
    expect(await runSoFar('R8')).toMatchObject({ plannedTry: -1 });
  });

  test('is stopped while it waits, and not once it has ended', async () => {
    const { pool } = database;
    const { id } = await begun('R9', []);
    expect(await askToStop(pool, id, 'Mara')).toEqual(companyRef('R9'));
    expect((await stoppedBy(pool, [id])).get(id)).toBe('Mara');
    await pool.query(notingTried([{ id, state: 'done', because: '', waitMs: 0, result: 'wrote' }]));
    expect(await askToStop(pool, id, 'Mara')).toBeUndefined();
  });

  test('is found by its record, its values, its rule, its result and its system', async () => {
    const { pool } = database;
    const { id } = await begun('R10-find-me', []);
    await pool.query(
      notingTried([{ id, state: 'done', because: '1 record written.', waitMs: 0, result: 'wrote' }]),
    );
    await pool.query(
      notingRuns([{ id, anew: false, done: true, result: 'wrote', because: '1 record written.' }]),
    );
    const ids = async (filter: Parameters<typeof listRuns>[1]) =>
      (await listRuns(pool, filter, 5)).map((run) => run.id);
    expect(await ids({ search: 'find-ME' })).toEqual([id]);
    expect(await ids({ search: 'find-me', result: 'wrote', rule: by.id, system: 'book' })).toEqual([id]);
    expect(await ids({ search: 'find-me', system: 'desk' })).toEqual([]);
    expect(await ids({ search: 'find-me', result: 'failed' })).toEqual([]);
    expect(await ids({ search: 'find-me', before: id })).toEqual([]);
    expect(await ids({ search: "'; DROP TABLE runs; --" })).toEqual([]);
  });

  test('is heard of when it has ended, and no earlier', async () => {
    const { pool } = database;
    const after = (await begun('R11', [])).id;
    const { id } = await begun('R12', []);
    const wanted = { system: 'book', recordType: 'company', kind: 'updated' };
    expect(await firstRunAfter(pool, after, wanted)).toBeNull();
    await pool.query(notingTried([{ id, state: 'done', because: '', waitMs: 0, result: 'wrote' }]));
    expect(await firstRunAfter(pool, after, wanted)).toBe(id);
    expect(await firstRunAfter(pool, after, { ...wanted, kind: 'deleted' })).toBeNull();
  });
});

describe('a record', () => {
  test('tells its events and its writes, with the rules and versions that wrote it', async () => {
    const { pool } = database;
    const { id, waiting } = await begun('R13', [planned(edit('B30', '2'))]);
    await noted(waiting.map((write) => settled(write, 'written')));
    expect(await recordTimeline(pool, bookingRef('B30'))).toMatchObject([
      {
        kind: 'write',
        change: 'edit',
        run: id,
        rules: [by],
        edits: [{ path: 'phone', before: '1', after: '2' }],
      },
    ]);
    expect(await recordTimeline(pool, companyRef('R13'))).toMatchObject([{ kind: 'event', run: id }]);
  });

  test('tells what changed a field since: a later run of ours or somebody in its system', async () => {
    const { pool } = database;
    const first = await begun('R14', [planned(edit('B31', '2'))]);
    await noted(first.waiting.map((write) => settled(write, 'written')));
    const field = { ref: bookingRef('B31'), path: 'phone' };
    expect((await changedSince(pool, [{ run: first.id, ...field }])).size).toBe(0);
    const later = await begun('R15', [planned(edit('B31', '3'))]);
    await noted(later.waiting.map((write) => settled(write, 'written')));
    expect((await changedSince(pool, [{ run: first.id, ...field }])).get(fieldKey(field))).toMatchObject({
      run: later.id,
      who: 'Phone to bookings',
    });
    const foreign = { ...companyEvent({ id: 'B31', phone: '9' }), ref: bookingRef('B31'), source: '/desk' };
    const { claimed: _claimed, ...told } = foreign;
    const id = (await accept(pool, foreign)) ?? '';
    await beginRuns(pool, [{ id, event: { ...told, changed: ['phone'] } }]);
    expect((await changedSince(pool, [{ run: first.id, ...field }])).get(fieldKey(field))).toMatchObject({
      run: id,
      who: 'somebody in desk',
    });
  });
});

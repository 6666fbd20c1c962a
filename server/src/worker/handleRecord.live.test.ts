import { readPath, type RecordRef } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import {
  companyEvent,
  companyRef,
  line,
  openHarbour,
  phoneToBookings,
  rule,
  type Harbour,
  type HarbourSetup,
} from '../fixtures/harbour';
import { accept } from '../inbox/inbox';
import { keepFirstSeen } from '../images/images';
import { takeAll } from '../intake/takeAll';
import { readOutcome } from '../runs/outcome';
import { noteSending, waitingWrites } from '../runs/plan';
import { askToStop, readRun, retryRun } from '../runs/repository';
import { unwatched } from './computing';
import { noteDeaths } from '../inbox/deaths';
import { handleRecord } from './handleRecord';

let database: TestDatabase;
let number = 0;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

/** A harbour with one company of its own, which was seen with phone 1, and its bookings. */
async function harbour(setup: HarbourSetup = {}): Promise<Harbour & { readonly id: string }> {
  const id = `H${++number}`;
  const company = { id, name: 'Skerry', phone: '1', town: 'Murrow' };
  const bookings = ['a', 'b'].map((letter) => ({
    id: `${id}${letter}`,
    name: letter,
    company: id,
    phone: '1',
    note: '',
  }));
  const opened = openHarbour(database.pool, { companies: [company], bookings, ...setup });
  await keepFirstSeen(database.pool, [{ ref: companyRef(id), record: company }]);
  return { ...opened, id };
}

const handle = (ref: RecordRef, { registry }: Harbour, mostAttempts = 3) =>
  handleRecord(ref, {
    pool: database.pool,
    registry: { get: () => Promise.resolve(registry), recent: () => Promise.resolve(registry) },
    computing: unwatched,
    mostAttempts,
  });

/** The company is saved in its system, which tells of it. */
async function change(at: Harbour & { readonly id: string }, set: Record<string, string> = { phone: '2' }) {
  at.book.save('company', at.id, set);
  const event = companyEvent(at.book.record('company', at.id) ?? {});
  return (await accept(database.pool, event)) ?? '';
}

const runOf = async (id: string) => {
  const run = await readRun(database.pool, id);
  return run && { state: run.state, result: run.result, because: run.because, writes: run.writes };
};

test('a change is written to every record that its rule reaches, once', async () => {
  const at = await harbour();
  const run = await change(at);
  await handle(companyRef(at.id), at);
  expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['2', '2']);
  expect(at.desk.taken).toHaveLength(2);
  expect(await runOf(run)).toEqual({
    state: 'done',
    result: 'wrote',
    because: '2 records written.',
    writes: 2,
  });
  await handle(companyRef(at.id), at);
  expect(at.desk.taken).toHaveLength(2);
});

test('a change of a field that nobody watches writes nothing, and says so', async () => {
  const at = await harbour();
  const run = await change(at, { town: 'Northport' });
  await handle(companyRef(at.id), at);
  expect(at.desk.taken).toEqual([]);
  expect(await runOf(run)).toMatchObject({
    result: 'nothing',
    because: 'Only town changed; the rule watches phone.',
  });
});

test('events of one record are handled in the order in which they came', async () => {
  const at = await harbour();
  const [first, second] = [await change(at), await change(at, { phone: '3' })];
  await handle(companyRef(at.id), at);
  expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['3', '3']);
  const values = at.desk.taken.map(({ change: made }) => made.kind === 'edit' && made.edits[0]?.after);
  expect(values).toEqual(['2', '2', '3', '3']);
  expect([(await runOf(first))?.result, (await runOf(second))?.result]).toEqual(['wrote', 'wrote']);
});

test('a system that is away keeps the run waiting and the later events behind it; each is written once when it is back', async () => {
  const at = await harbour();
  const [first, second] = [await change(at), await change(at, { phone: '3' })];
  at.desk.away = true;
  await handle(companyRef(at.id), at);
  expect(await runOf(first)).toMatchObject({ state: 'waiting', because: 'desk is away.' });
  expect(await runOf(second)).toMatchObject({ state: 'waiting', result: null, because: '' });
  at.desk.away = false;
  await database.pool.query('UPDATE inbox SET next_at = now()');
  await handle(companyRef(at.id), at);
  expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['3', '3']);
  expect(at.desk.taken).toHaveLength(4);
});

test('what stays away is given up after so many tries, and can be tried again by hand', async () => {
  const at = await harbour();
  const run = await change(at);
  at.desk.away = true;
  for (let tries = 0; tries < 3; tries++) {
    await database.pool.query('UPDATE inbox SET next_at = now()');
    await handle(companyRef(at.id), at);
  }
  expect(await runOf(run)).toMatchObject({
    state: 'failed',
    result: 'failed',
    because: 'Given up after 3 tries: desk is away.',
  });
  at.desk.away = false;
  await retryRun(database.pool, run);
  await handle(companyRef(at.id), at);
  expect(await runOf(run)).toMatchObject({ state: 'done', result: 'wrote', writes: 2 });
});

test('only what failed is tried again; what was written stays written once', async () => {
  const at = await harbour();
  const run = await change(at);
  at.desk.failure = ({ change: { ref } }) =>
    ref.id.endsWith('b') ? { code: 'unavailable', message: 'Busy.', retry: true } : undefined;
  await handle(companyRef(at.id), at);
  expect(await runOf(run)).toMatchObject({ state: 'waiting', because: '1 write failed: Busy.', writes: 1 });
  at.desk.failure = undefined;
  await database.pool.query('UPDATE inbox SET next_at = now()');
  await handle(companyRef(at.id), at);
  expect(at.desk.taken.map(({ change: { ref } }) => ref.id)).toEqual([`${at.id}a`, `${at.id}b`]);
  expect(await runOf(run)).toMatchObject({ result: 'wrote', writes: 2 });
});

test('a record that is refused does not stop the other one, and is named', async () => {
  const at = await harbour();
  const run = await change(at);
  at.desk.failure = ({ change: { ref } }) =>
    ref.id.endsWith('a') ? { code: 'refused', message: 'It is closed.', retry: false } : undefined;
  await handle(companyRef(at.id), at);
  expect(await runOf(run)).toEqual({
    state: 'done',
    result: 'partly failed',
    because: `1 write was refused, the first for booking ${at.id}a: It is closed.`,
    writes: 1,
  });
});

test('a record that somebody saved in between is read again and computed anew, and the other change stays', async () => {
  const at = await harbour();
  const run = await change(at);
  let once = true;
  at.desk.failure = ({ change: { ref } }) => {
    if (!once || !ref.id.endsWith('a')) return undefined;
    once = false;
    at.desk.save('booking', ref.id, { note: 'theirs' });
    return undefined;
  };
  await handle(companyRef(at.id), at);
  expect(at.desk.record('booking', `${at.id}a`)).toMatchObject({ note: 'theirs', phone: '2' });
  expect(await runOf(run)).toMatchObject({ result: 'wrote' });
  expect((await readOutcome(database.pool, run)).map(({ plan, state }) => [plan, state])).toEqual([
    [1, 'written'],
    [2, 'written'],
  ]);
});

test('a plan whose worker was killed is sent by the next one with the same keys', async () => {
  const at = await harbour();
  const run = await change(at);
  at.desk.away = true;
  // The plan needs the records, so that they are read before the system goes away.
  const find = at.desk.find.bind(at.desk);
  at.desk.find = async (...args) => {
    at.desk.away = false;
    const found = await find(...args);
    at.desk.away = true;
    return found;
  };
  await handle(companyRef(at.id), at).catch(() => undefined);
  at.desk.find = find;
  at.desk.away = false;
  const open = await waitingWrites(database.pool, run, undefined, 10);
  expect(open.map(({ planned }) => planned.change.ref.id)).toEqual([`${at.id}a`, `${at.id}b`]);
  // It was under way when the worker was killed.
  await noteSending(database.pool, run, open);
  await database.pool.query(`UPDATE flights SET sent_at = now() - interval '1 minute'`);
  await database.pool.query('UPDATE inbox SET next_at = now()');
  await handle(companyRef(at.id), at);
  expect(at.desk.taken.map(({ key }) => key)).toEqual(open.map(({ key }) => key));
  expect(await runOf(run)).toMatchObject({ result: 'wrote', writes: 2 });
});

const makesTask = rule(2, {
  name: 'Makes a task',
  trigger: phoneToBookings.trigger,
  actions: [
    {
      kind: 'create',
      alias: 'task',
      system: 'desk',
      recordType: 'task',
      lines: [line('name', '"Call " & phone')],
    },
    { kind: 'write', target: 'record', lines: [line('note', 'task.id')] },
  ],
});

test('a created record is made once, and what carries its id gets the one that its system gave', async () => {
  const at = await harbour({ rules: [makesTask] });
  const run = await change(at);
  at.book.failure = () => ({ code: 'unavailable', message: 'Busy.', retry: true });
  await handle(companyRef(at.id), at);
  at.book.failure = undefined;
  await database.pool.query('UPDATE inbox SET next_at = now()');
  await handle(companyRef(at.id), at);
  const tasks = at.desk.all('task');
  expect(tasks.map(({ name }) => name)).toEqual(['Call 2']);
  expect(at.book.record('company', at.id)?.['note']).toBe(tasks[0]?.['id']);
  expect(await runOf(run)).toMatchObject({ result: 'wrote', writes: 2 });
});

test('the event of a write that carries a created id is known for our own', async () => {
  const at = await harbour({ rules: [makesTask] });
  await change(at);
  await handle(companyRef(at.id), at);
  const now = at.book.record('company', at.id) ?? {};
  const [echo] = await takeAll(database.pool, at.registry, [companyEvent(now)]);
  expect(await runOf(echo ?? '')).toMatchObject({ state: 'done', result: 'own write' });
});

test('a record that cannot be created keeps nothing else from being written, and what needs it is not written', async () => {
  const at = await harbour({ rules: [makesTask, phoneToBookings] });
  const run = await change(at);
  at.desk.failure = ({ change: { kind } }) =>
    kind === 'create' ? { code: 'refused', message: 'No more tasks.', retry: false } : undefined;
  await handle(companyRef(at.id), at);
  expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['2', '2']);
  expect(at.book.record('company', at.id)?.['note']).toBeUndefined();
  const outcome = await readOutcome(database.pool, run);
  expect(outcome.map(({ change: made, state }) => [made.ref.recordType, state]).sort()).toEqual([
    ['booking', 'written'],
    ['booking', 'written'],
    ['company', 'skipped'],
    ['task', 'refused'],
  ]);
});

test('a run that somebody stopped sends nothing more, and can be taken up again', async () => {
  const at = await harbour();
  const run = await change(at);
  at.desk.away = true;
  await handle(companyRef(at.id), at);
  at.desk.away = false;
  await askToStop(database.pool, run, 'Mara');
  await handle(companyRef(at.id), at);
  expect(at.desk.taken).toEqual([]);
  expect(await runOf(run)).toMatchObject({
    state: 'failed',
    because: 'Mara stopped it: 0 records are written, 0 not.',
  });
  await retryRun(database.pool, run);
  await handle(companyRef(at.id), at);
  expect(await runOf(run)).toMatchObject({ result: 'wrote', writes: 2 });
});

test('a deleted record is told of with what it held, and its image goes', async () => {
  const gone = rule(3, {
    trigger: { system: 'book', recordType: 'company', kinds: ['deleted'], watched: [] },
    finds: phoneToBookings.finds,
    actions: [{ kind: 'remove', target: 'booking' }],
  });
  const at = await harbour({ rules: [gone] });
  const event = companyEvent({ id: at.id }, { kind: 'deleted' });
  const run = (await accept(database.pool, event)) ?? '';
  await handle(companyRef(at.id), at);
  expect(at.desk.all('booking')).toEqual([]);
  expect(readPath((await readRun(database.pool, run))?.event?.before, 'phone')).toBe('1');
});

test('an event that comes while a write of ours is on its way waits for its result', async () => {
  const at = await harbour();
  const run = await change(at);
  await handle(companyRef(at.id), at);
  await database.pool.query(
    `INSERT INTO flights (run_id, plan, seq, system, record_type, record_id, creates)
     SELECT run_id, plan, seq, 'book', 'company', $2, false FROM writes WHERE run_id = $1 LIMIT 1`,
    [run, at.id],
  );
  const later = await change(at, { phone: '4' });
  await handle(companyRef(at.id), at);
  expect(await runOf(later)).toMatchObject({ state: 'waiting' });
  await database.pool.query('DELETE FROM flights');
  await handle(companyRef(at.id), at);
  expect(await runOf(later)).toMatchObject({ result: 'wrote' });
});

test('an event whose computation ended its process twice is parked, and the later ones of its record go on', async () => {
  const at = await harbour();
  const first = await change(at);
  await noteDeaths(database.pool, [first]);
  await noteDeaths(database.pool, [first]);
  const second = await change(at, { phone: '3' });
  await handle(companyRef(at.id), at);
  expect(await runOf(first)).toMatchObject({ state: 'failed', result: 'failed', writes: 0 });
  expect((await runOf(first))?.because).toMatch(/^Parked: computing it ended the process 2 times/);
  expect(await runOf(second)).toMatchObject({ result: 'wrote' });
  expect(at.desk.record('booking', `${at.id}a`)?.['phone']).toBe('3');

  // Whoever mended the rule tries it again: it is computed as any other.
  expect(await retryRun(database.pool, first)).toMatchObject({ id: at.id });
  await handle(companyRef(at.id), at);
  expect((await runOf(first))?.state).toBe('done');
});

test('an event that ended a process once is computed again, and is no longer suspected then', async () => {
  const at = await harbour();
  const event = await change(at);
  await noteDeaths(database.pool, [event]);
  await handle(companyRef(at.id), at);
  expect(await runOf(event)).toMatchObject({ result: 'wrote' });
  const { rowCount } = await database.pool.query('SELECT 1 FROM computation_deaths WHERE event_id = $1', [
    event,
  ]);
  expect(rowCount).toBe(0);
});

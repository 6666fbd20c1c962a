import * as fc from 'fast-check';
import { pino } from 'pino';
import { readPath, WorkspaceError, type RecordRef } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import {
  bookingRef,
  companyEvent,
  companyRef,
  line,
  openHarbour,
  phoneToBookings,
  rule,
  type Harbour,
  type HarbourSetup,
} from '../fixtures/harbour';
import { accept, type ReceivedEvent } from '../inbox/inbox';
import { keepFirstSeen } from '../images/images';
import { takeAll } from '../intake/takeAll';
import { readOutcome } from '../runs/outcome';
import { notingSending, waitingWrites } from '../runs/plan';
import { readRun } from '../runs/list';
import { askToStop, retryRuns } from '../runs/repository';
import { runAgain } from '../runs/runAgain';
import { unwatched } from './computing';
import { noteDeaths } from '../inbox/deaths';
import { handleRecord } from './handleRecord';
import { Sets } from './sets';
import { RightOfWay } from './rightOfWay';
import { Turns } from './turns';

jest.setTimeout(60_000);

let database: TestDatabase;
let number = 0;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

/** A harbour with one company of its own, which was seen with phone 1, and its bookings. */
async function harbour(setup: HarbourSetup = {}): Promise<Harbour & { readonly id: string }> {
  const id = `H${++number}`;
  const company = { id, name: 'Skerry', phone: '1', town: 'Murrow', rev: 1 };
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

const handle = (
  ref: RecordRef,
  { registry }: Harbour,
  { mostAttempts = 3, rightOfWay = new RightOfWay() } = {},
) =>
  handleRecord(ref, {
    pool: database.pool,
    registry: { get: () => Promise.resolve(registry), recent: () => Promise.resolve(registry) },
    computing: unwatched,
    sets: new Sets(database.pool, mostAttempts),
    turns: new Turns(),
    rightOfWay,
    stopping: () => false,
    log: pino({ level: 'silent' }),
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

test('a system that is away keeps the run waiting and the later events behind it; what they come to is written once when it is back', async () => {
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
  // The second change is in the record by the time of the new try.
  expect(at.desk.taken).toHaveLength(2);
  expect([(await runOf(first))?.result, (await runOf(second))?.result]).toEqual(['wrote', 'nothing']);
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
  await retryRuns(database.pool, [run]);
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
  at.desk.meanwhile(`${at.id}a`, () => at.desk.save('booking', `${at.id}a`, { note: 'theirs' }));
  await handle(companyRef(at.id), at);
  expect(at.desk.record('booking', `${at.id}a`)).toMatchObject({ note: 'theirs', phone: '2' });
  expect(await runOf(run)).toMatchObject({ result: 'wrote' });
  expect((await readOutcome(database.pool, run)).map(({ plan, state }) => [plan, state])).toEqual([
    [1, 'written'],
    [2, 'written'],
  ]);
});

test('a run of which one record was written, and the other saved by somebody as it was to be, tells of the one', async () => {
  const at = await harbour();
  const run = await change(at);
  at.desk.meanwhile(`${at.id}a`, () => at.desk.save('booking', `${at.id}a`, { phone: '2' }));
  await handle(companyRef(at.id), at);
  expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['2', '2']);
  expect(await runOf(run)).toMatchObject({ result: 'wrote', because: '1 record written.', writes: 1 });
});

test('a plan whose worker was killed is sent by the next one with the same keys', async () => {
  const at = await harbour();
  const run = await change(at);
  const write = at.desk.write.bind(at.desk);
  // What a worker that is killed here leaves behind: the database hears nothing of what was sent.
  at.desk.write = () => Promise.reject(Object.assign(new Error('killed'), { code: '57P01' }));
  await expect(handle(companyRef(at.id), at)).rejects.toThrow('killed');
  at.desk.write = write;
  const open = await waitingWrites(database.pool, run, undefined, 10);
  expect(open.map(({ planned }) => planned.change.ref.id)).toEqual([`${at.id}a`, `${at.id}b`]);
  // It was under way when the worker was killed.
  await database.pool.query(notingSending(open));
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
  expect(await runOf(echo?.id ?? '')).toMatchObject({ state: 'done', result: 'own write' });
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
  await retryRuns(database.pool, [run]);
  await handle(companyRef(at.id), at);
  expect(await runOf(run)).toMatchObject({ result: 'wrote', writes: 2 });
});

test('a run of many writes sends one batch at a time while a lone event is dealt with, and several at a time otherwise', async () => {
  const company = `H${number + 1}`;
  const bookings = Array.from({ length: 600 }, (_none, nth) => ({
    id: `${company}-${nth}`,
    name: '',
    company,
    phone: '1',
    note: '',
  }));
  const at = await harbour({ bookings });
  const write = at.desk.write.bind(at.desk);
  let [sending, most] = [0, 0];
  /** Each batch is on its way until so many are at the same time; where they never are, for so many milliseconds. */
  let [wanted, patience] = [3, 5000];
  at.desk.write = async (type, changes) => {
    most = Math.max(most, ++sending);
    for (let waited = 0; most < wanted && waited < patience; waited += 5)
      await new Promise((done) => setTimeout(done, 5));
    sending--;
    return write(type, changes);
  };
  let now = 0;
  const rightOfWay = new RightOfWay(() => now);
  await change(at);
  await handle(companyRef(at.id), at, { rightOfWay });
  expect([most, at.desk.taken.length]).toEqual([3, 600]);
  [most, wanted, patience] = [0, 2, 100];
  const end = rightOfWay.begin();
  // It counts as lone for as long as the test takes.
  now = -60_000;
  await change(at, { phone: '3' });
  await handle(companyRef(at.id), at, { rightOfWay });
  end();
  expect([most, at.desk.taken.length]).toEqual([1, 1200]);
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
  const handled = handle(companyRef(at.id), at);
  await new Promise((done) => setTimeout(done, 250));
  expect(await runOf(later)).toMatchObject({ state: 'waiting' });
  await database.pool.query('DELETE FROM flights');
  await handled;
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
  expect((await retryRuns(database.pool, [first])).get(first)).toMatchObject({ id: at.id });
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

describe('what comes late', () => {
  const runWithEvent = async (at: Harbour, event: ReceivedEvent) => {
    const id = (await accept(database.pool, event)) ?? '';
    await handle(event.ref, at);
    return id;
  };

  test('an older event changes nothing, and its run says both versions', async () => {
    const at = await harbour();
    at.book.save('company', at.id, { phone: '2' });
    const older = companyEvent(at.book.record('company', at.id) ?? {});
    await change(at, { phone: '3' });
    await handle(companyRef(at.id), at);
    const late = await runWithEvent(at, older);
    expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['3', '3']);
    expect(await runOf(late)).toEqual({
      state: 'done',
      result: 'late',
      because:
        'Came late: it tells of version 2, and version 3 was dealt with before. Nothing is changed by it.',
      writes: 0,
    });
  });

  test('an event that holds only a part is completed from the system, and blanks nothing', async () => {
    const copies = rule(4, {
      finds: phoneToBookings.finds,
      actions: [{ kind: 'write', target: 'booking', lines: [line('phone', 'phone'), line('note', 'town')] }],
    });
    const at = await harbour({ rules: [copies] });
    at.book.save('company', at.id, { phone: '2' });
    const run = await runWithEvent(at, companyEvent({ id: at.id, phone: '2' }, { part: true }));
    expect(at.desk.record('booking', `${at.id}a`)).toMatchObject({ phone: '2', note: 'Murrow' });
    const event = (await readRun(database.pool, run))?.event;
    expect([event?.record['town'], event?.changed, event?.readAt !== undefined]).toEqual([
      'Murrow',
      ['phone'],
      true,
    ]);
  });

  test('where the order cannot be told, the record itself says how it is', async () => {
    const at = await harbour();
    const told = (phone: string, time: string) =>
      runWithEvent(at, companyEvent({ id: at.id, name: 'Skerry', phone, town: 'Murrow' }, { time }));
    at.book.save('company', at.id, { phone: '3' });
    await told('3', '2026-03-09T10:00:03Z');
    const late = await told('2', '2026-03-09T10:00:02Z');
    expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['3', '3']);
    expect((await readRun(database.pool, late))?.event?.record['phone']).toBe('3');
    expect(await runOf(late)).toMatchObject({ result: 'nothing', writes: 0 });
  });

  test('an update of a record that was deleted meanwhile does not bring it back', async () => {
    const at = await harbour();
    at.book.save('company', at.id, { phone: '2' });
    const older = companyEvent(at.book.record('company', at.id) ?? {});
    await runWithEvent(at, companyEvent({ id: at.id, rev: 3 }, { kind: 'deleted' }));
    const late = await runWithEvent(at, older);
    expect(at.desk.taken).toEqual([]);
    expect(await runOf(late)).toMatchObject({
      result: 'late',
      because: 'Came late: the record was removed before. Nothing is changed by it.',
    });
  });

  test('law: events of one record in any order, doubled and with gaps, end in the state of the newest', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 5 }).chain((count) => {
          const times = fc.array(fc.constantFrom(0, 1, 1, 2), { minLength: count, maxLength: count });
          return times.chain((each) => {
            const deliveries = each.flatMap((many, at) =>
              Array<number>(at === count - 1 ? Math.max(1, many) : many).fill(at + 1),
            );
            return fc.shuffledSubarray(deliveries, { minLength: deliveries.length });
          });
        }),
        fc.boolean(),
        async (order, atIntake) => {
          const at = await harbour();
          const states = Array.from({ length: Math.max(...order) }, (_none, step) => {
            at.book.save('company', at.id, { phone: `p${step + 1}` });
            return at.book.record('company', at.id) ?? {};
          });
          for (const step of order) {
            const event = companyEvent(states[step - 1] ?? {});
            if (atIntake) await takeAll(database.pool, at.registry, [event]);
            else await accept(database.pool, event);
            await handle(companyRef(at.id), at);
          }
          expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual([
            `p${states.length}`,
            `p${states.length}`,
          ]);
        },
      ),
      { numRuns: 40 },
    );
  });
});

describe('a new try', () => {
  test('computes with the record as it is now', async () => {
    const at = await harbour();
    const run = await change(at);
    at.desk.away = true;
    await handle(companyRef(at.id), at);
    // It is changed once more, and nobody tells of it.
    at.book.save('company', at.id, { phone: '9' });
    at.desk.away = false;
    await database.pool.query('UPDATE inbox SET next_at = now()');
    await handle(companyRef(at.id), at);
    expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['9', '9']);
    expect((await readRun(database.pool, run))?.event).toMatchObject({
      record: { phone: '9' },
      changed: ['phone'],
    });
    // The event that tells of it, when it comes, is news to nobody.
    const later = await change(at, {});
    await handle(companyRef(at.id), at);
    expect(await runOf(later)).toMatchObject({ result: 'nothing', writes: 0 });
    expect(at.desk.taken).toHaveLength(2);
  });

  test('of an old run does not put old values back over newer ones', async () => {
    const at = await harbour();
    const old = await change(at);
    at.desk.failure = () => ({ code: 'refused', message: 'It is closed.', retry: false });
    await handle(companyRef(at.id), at);
    at.desk.failure = undefined;
    await change(at, { phone: '3' });
    await handle(companyRef(at.id), at);
    expect(at.desk.taken).toHaveLength(2);
    await retryRuns(database.pool, [old]);
    await handle(companyRef(at.id), at);
    expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['3', '3']);
    expect(at.desk.taken).toHaveLength(2);
    expect(await runOf(old)).toMatchObject({ state: 'done', result: 'nothing' });
  });

  test('a payload that is run again is computed from the record as it is now', async () => {
    const at = await harbour();
    const old = await change(at);
    await handle(companyRef(at.id), at);
    await change(at, { phone: '3' });
    await handle(companyRef(at.id), at);
    at.desk.save('booking', `${at.id}a`, { phone: 'lost' });
    const [again] = (await runAgain(database.pool, at.registry, old, { by: 'Mara' })) ?? [];
    await handle(companyRef(at.id), at);
    expect(at.desk.record('booking', `${at.id}a`)?.['phone']).toBe('3');
    expect(await runOf(again ?? '')).toMatchObject({ result: 'wrote', writes: 1 });
  });

  test('a payload that a person edited is what the rules get, also in a later try', async () => {
    const at = await harbour();
    const old = await change(at);
    await handle(companyRef(at.id), at);
    const record = { ...at.book.record('company', at.id), phone: '7' };
    at.desk.failure = () => ({ code: 'unavailable', message: 'Busy.', retry: true });
    const [again] =
      (await runAgain(database.pool, at.registry, old, { by: 'Mara', edited: { record } })) ?? [];
    await handle(companyRef(at.id), at);
    at.desk.failure = undefined;
    await database.pool.query('UPDATE inbox SET next_at = now()');
    await handle(companyRef(at.id), at);
    expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['7', '7']);
    expect(await runOf(again ?? '')).toMatchObject({ result: 'wrote', writes: 2 });
    // The company itself is as it was: nobody changed it.
    expect(at.book.record('company', at.id)).toMatchObject({ phone: '2' });
    const same = { before: record, record };
    const [nothing] = (await runAgain(database.pool, at.registry, old, { by: 'Mara', edited: same })) ?? [];
    await handle(companyRef(at.id), at);
    expect(await runOf(nothing ?? '')).toMatchObject({ result: 'nothing' });
  });

  test('what follows from a write is done also where the write itself was made in an earlier try', async () => {
    const noteOfBooking = rule(5, {
      name: 'Note of booking',
      trigger: { system: 'desk', recordType: 'booking', kinds: ['updated'], watched: ['phone'] },
      actions: [
        {
          kind: 'create',
          alias: 'task',
          system: 'desk',
          recordType: 'task',
          lines: [line('name', '"Call " & phone'), line('booking', 'id')],
        },
      ],
    });
    const at = await harbour({ rules: [phoneToBookings, noteOfBooking] });
    const run = await change(at);
    at.desk.failure = ({ change: { kind } }) =>
      kind === 'create' ? { code: 'unavailable', message: 'Busy.', retry: true } : undefined;
    await handle(companyRef(at.id), at);
    expect(at.desk.all('booking').map(({ phone }) => phone)).toEqual(['2', '2']);
    at.desk.failure = undefined;
    await database.pool.query('UPDATE inbox SET next_at = now()');
    await handle(companyRef(at.id), at);
    expect(
      at.desk
        .all('task')
        .map(({ name, booking }) => [name, booking])
        .sort(),
    ).toEqual([
      ['Call 2', `${at.id}a`],
      ['Call 2', `${at.id}b`],
    ]);
    // The bookings were written once.
    expect(at.desk.taken.filter(({ change: { kind } }) => kind === 'edit')).toHaveLength(2);
    expect(await runOf(run)).toMatchObject({ result: 'wrote', writes: 4 });
  });

  test('a write whose answer was lost is known for ours when it comes back, and is not sent twice', async () => {
    const at = await harbour({ bookings: [] });
    at.desk.save('booking', `${at.id}x`, { company: at.id, phone: '1' });
    await keepFirstSeen(database.pool, [
      { ref: bookingRef(`${at.id}x`), record: at.desk.record('booking', `${at.id}x`) ?? {} },
    ]);
    const run = await change(at);
    const write = at.desk.write.bind(at.desk);
    at.desk.write = async (...args) => {
      await write(...args);
      throw new WorkspaceError({ code: 'unavailable', message: 'No answer came.', retry: true });
    };
    // As a connection tells it: a result for each change.
    const lost = at.desk.write;
    at.desk.write = (type, changes) =>
      lost(type, changes).catch((thrown: WorkspaceError) =>
        changes.map(() => ({ ok: false as const, problem: thrown.problem })),
      );
    await handle(companyRef(at.id), at);
    const echo = {
      ...companyEvent(at.desk.record('booking', `${at.id}x`) ?? {}),
      ref: bookingRef(`${at.id}x`),
      source: '/desk',
    };
    const [echoed] = await takeAll(database.pool, at.registry, [echo]);
    expect(await runOf(echoed?.id ?? '')).toMatchObject({ result: 'own write' });
    at.desk.write = write;
    await database.pool.query('UPDATE inbox SET next_at = now()');
    await handle(companyRef(at.id), at);
    expect(at.desk.taken).toHaveLength(1);
    expect((await runOf(run))?.state).toBe('done');
  });
});

test('an exception while an event is handled is a try, told in the run, and the next event of the record goes on', async () => {
  const at = await harbour();
  const run = await change(at);
  const find = at.desk.find.bind(at.desk);
  at.desk.find = () => Promise.reject(new TypeError('x is not a function'));
  for (let tries = 0; tries < 3; tries++) {
    await database.pool.query('UPDATE inbox SET next_at = now()');
    await handle(companyRef(at.id), at);
  }
  expect(await runOf(run)).toMatchObject({
    state: 'failed',
    because: 'Given up after 3 tries: Vast Knot itself failed at it: x is not a function',
  });
  at.desk.find = find;
  const next = await change(at, { phone: '4' });
  await handle(companyRef(at.id), at);
  expect(await runOf(next)).toMatchObject({ result: 'wrote' });
});

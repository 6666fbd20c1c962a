import { pino } from 'pino';
import { v7 as uuid } from 'uuid';
import type { RecordRef, RuleBody, Undoes } from '@vast-knot/core';
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
import { keepFirstSeen } from '../images/images';
import { accept } from '../inbox/inbox';
import { takeAll } from '../intake/takeAll';
import { beginJob, readJob } from '../jobs/repository';
import { runJob } from '../jobs/runJob';
import { readRun } from '../runs/list';
import { readPayload } from '../runs/repository';
import { recordTimeline } from '../runs/timeline';
import { unwatched } from '../worker/computing';
import { handleRecord } from '../worker/handleRecord';
import { Sets } from '../worker/sets';
import { RightOfWay } from '../worker/rightOfWay';
import { Turns } from '../worker/turns';
import { previewUndo } from './preview';
import { countRuns, runsToPreview, undoEvent, undoManyKind, type UndoManyAsked } from './undoMany';

jest.setTimeout(30_000);
let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE inbox, runs, jobs, images CASCADE'));

async function harbour(setup: HarbourSetup = {}, count = 1): Promise<Harbour> {
  const companies = Array.from({ length: count }, (_none, at) => ({
    id: `C${at}`,
    name: 'Skerry',
    phone: '1',
    rev: 1,
  }));
  const bookings = companies.flatMap(({ id }) =>
    ['a', 'b'].map((letter) => ({
      id: `${id}${letter}`,
      name: letter,
      company: id,
      phone: '1',
      note: '',
      rev: 1,
    })),
  );
  const opened = openHarbour(database.pool, { companies, bookings, ...setup });
  await keepFirstSeen(
    database.pool,
    companies.map((record) => ({ ref: companyRef(record.id), record })),
  );
  return opened;
}

const handling = ({ registry }: Harbour) => ({
  pool: database.pool,
  registry: { get: () => Promise.resolve(registry), recent: () => Promise.resolve(registry) },
  computing: unwatched,
  sets: new Sets(database.pool, 3),
  turns: new Turns(),
  rightOfWay: new RightOfWay(),
  stopping: () => false,
  log: pino({ level: 'silent' }),
});
const handle = (ref: RecordRef, at: Harbour) => handleRecord(ref, handling(at));

async function change(at: Harbour, id: string, set: Record<string, string>): Promise<string> {
  at.book.save('company', id, set);
  const run = await accept(database.pool, companyEvent(at.book.record('company', id) ?? {}));
  await handle(companyRef(id), at);
  return run ?? '';
}

async function takeBack(
  at: Harbour,
  run: string,
  part: Pick<Undoes, 'only' | 'without' | 'starts'> = {},
): Promise<string> {
  const payload = await readPayload(database.pool, run);
  if (!payload) throw new Error('no such run');
  const { changed: _changed, ...event } = payload.event;
  const undoes = { run, because: 'It was wrong.', by: 'Mara', ...part };
  const made = await accept(database.pool, undoEvent(uuid(), event, undoes));
  await handle(event.ref, at);
  return made ?? '';
}

const phones = (at: Harbour) => at.desk.all('booking').map(({ phone }) => phone);
const runOf = async (id: string) => {
  const run = await readRun(database.pool, id);
  return [run?.result, run?.because];
};
const preview = (at: Harbour, run: string) => previewUndo(database.pool, at.registry, { runs: [run] });

test('what a run wrote is taken back as a run of its own, and can be brought again by taking that back', async () => {
  const at = await harbour();
  const run = await change(at, 'C0', { phone: '2' });
  expect(phones(at)).toEqual(['2', '2']);
  expect(await preview(at, run)).toMatchObject({ back: 2, stays: 0, isBack: 0, messages: [] });
  const undone = await takeBack(at, run);
  expect(phones(at)).toEqual(['1', '1']);
  expect(await runOf(undone)).toEqual(['wrote', '2 records were taken back.']);
  // The write is ours: the event that tells of it starts nothing.
  const { record } = (await at.desk.get('booking', 'C0a')) ?? { record: {} };
  const [own] = await takeAll(database.pool, at.registry, [
    { ...companyEvent(record), ref: bookingRef('C0a'), source: '/desk', id: uuid() },
  ]);
  expect(own?.own).toBe(true);
  expect(await runOf(await takeBack(at, run))).toEqual(['nothing', 'Nothing is left to be taken back.']);
  // Nothing changed in the record of the event itself.
  expect((await recordTimeline(database.pool, companyRef('C0')))[0]).toMatchObject({
    event: 'taken back',
    changed: [],
  });
  await takeBack(at, undone);
  expect(phones(at)).toEqual(['2', '2']);
});

test('a field that somebody changed since stays, and the preview says who; single records can be chosen', async () => {
  const at = await harbour();
  const run = await change(at, 'C0', { phone: '2' });
  const later = await change(at, 'C0', { phone: '3' });
  at.desk.save('booking', 'C0b', { phone: 'by hand' });
  const seen = await preview(at, later);
  expect(seen).toMatchObject({ back: 1, stays: 1 });
  expect(seen.records[0]).toMatchObject({
    ref: { id: 'C0b' },
    standing: 'changed since',
    fields: [{ path: 'phone', before: '2', written: '3', now: 'by hand' }],
  });
  const earlier = await preview(at, run);
  expect(earlier.records[0]?.fields[0]?.by).toMatchObject({ run: later, who: 'Phone to bookings' });
  expect(await runOf(await takeBack(at, later, { without: ['desk/booking/C0a'] }))).toEqual([
    'nothing',
    'Nothing is taken back: 0 records were taken back, 1 stays as it is.',
  ]);
  expect(await runOf(await takeBack(at, later, { only: ['desk/booking/C0a', 'desk/booking/C0b'] }))).toEqual([
    'wrote',
    '1 record was taken back, 1 stays as it is.',
  ]);
  expect(phones(at)).toEqual(['2', 'by hand']);
});

test('what goes back starts no rule, unless that is asked for: then it counts as changed in its system', async () => {
  const noteOfBooking = rule(4, {
    name: 'Note of booking',
    trigger: { system: 'desk', recordType: 'booking', kinds: ['updated'], watched: ['phone'] },
    actions: [{ kind: 'write', target: 'record', lines: [line('note', '"was " & before.phone')] }],
  });
  const at = await harbour({ rules: [phoneToBookings] });
  const later = openHarbour(database.pool, { rules: [phoneToBookings, noteOfBooking] });
  const heard = { ...at, registry: { ...at.registry, rules: later.registry.rules } };
  const comesBack = async () => {
    const record = at.desk.record('booking', 'C0a') ?? {};
    const event = { ...companyEvent(record), ref: bookingRef('C0a'), source: '/desk', id: uuid() };
    const id = await accept(database.pool, event);
    await handle(bookingRef('C0a'), heard);
    return (await runOf(id ?? ''))[0];
  };
  const run = await change(at, 'C0', { phone: '2' });
  expect(await comesBack()).toBe('own write');
  const undone = await takeBack(at, run);
  expect(await comesBack()).toBe('own write');
  await takeBack(at, undone, { starts: true });
  expect(await comesBack()).toBe('wrote');
  expect(at.desk.record('booking', 'C0a')).toMatchObject({ phone: '2', note: 'was 1' });
});

test('a record of which one field was changed since goes back in part', async () => {
  const both: Partial<RuleBody> = {
    ...phoneToBookings,
    actions: [{ kind: 'write', target: 'booking', lines: [line('phone', 'phone'), line('note', 'phone')] }],
  };
  const at = await harbour({ rules: [rule(3, both)] });
  const run = await change(at, 'C0', { phone: '2' });
  at.desk.save('booking', 'C0b', { note: 'by hand' });
  expect(await preview(at, run)).toMatchObject({ back: 2, inPart: 1, stays: 0 });
  await takeBack(at, run);
  expect(phones(at)).toEqual(['1', '1']);
  expect(at.desk.record('booking', 'C0b')).toMatchObject({ note: 'by hand' });
});

test('a record that was created goes if nobody worked on it since', async () => {
  const task = rule(2, {
    name: 'A task',
    finds: [],
    actions: [
      { kind: 'create', alias: 'task', system: 'desk', recordType: 'task', lines: [line('name', 'name')] },
    ],
  } as never);
  const at = await harbour({ rules: [task] });
  const run = await change(at, 'C0', { phone: '2' });
  expect(at.desk.all('task')).toHaveLength(1);
  await takeBack(at, run);
  expect(at.desk.all('task')).toHaveLength(0);
  const again = await change(at, 'C0', { phone: '3' });
  const id = String(at.desk.all('task')[0]?.['id']);
  at.desk.save('task', id, { name: 'Mara works on it' });
  expect((await preview(at, again)).records[0]?.because).toMatch(
    /^It stays, because somebody worked on it since/,
  );
  await takeBack(at, again);
  expect(at.desk.all('task')).toHaveLength(1);
});

test('a system that is away in the middle is waited for; what it says no to is told', async () => {
  const at = await harbour();
  const run = await change(at, 'C0', { phone: '2' });
  at.desk.away = true;
  const undone = await takeBack(at, run);
  expect((await readRun(database.pool, undone))?.state).toBe('waiting');
  at.desk.away = false;
  await database.pool.query(`UPDATE inbox SET next_at = now() WHERE state = 'waiting'`);
  await handle(companyRef('C0'), at);
  expect(phones(at)).toEqual(['1', '1']);
  expect(await runOf(undone)).toEqual(['wrote', '2 records were taken back.']);
});

test('of runs that wrote a lot the last are looked at, as many as a person waits for, and it is known how many there are', async () => {
  const { pool } = database;
  await pool.query(
    `INSERT INTO inbox (system, source, event_id, record_type, record_id, kind, state)
     SELECT 'book', '/made', n::text, 'company', 'C' || n, 'updated', 'done' FROM generate_series(1, 3) AS n`,
  );
  await pool.query(
    `INSERT INTO runs (id, state, result, rules_fired, event)
     SELECT id, 'done', 'wrote', ARRAY[$1], '{}' FROM inbox`,
    [phoneToBookings.id],
  );
  await pool.query(
    `INSERT INTO writes (run_id, plan, seq, system, record_type, record_id, key, state)
     SELECT id, 1, n, 'desk', 'booking', 'B' || n, gen_random_uuid(), 'written' FROM runs, generate_series(1, 12000) AS n`,
  );
  const asked = { rule: phoneToBookings.id, since: '2020-01-01T00:00:00Z', until: '2100-01-01T00:00:00Z' };
  const { rows } = await pool.query<{ id: string }>('SELECT id FROM runs ORDER BY id DESC LIMIT 2');
  expect(await runsToPreview(pool, asked)).toEqual(rows.map(({ id }) => id));
  expect(await countRuns(pool, asked)).toBe(3);
});

test('all that a rule wrote since a time is taken back, the last first, though a job is killed in between', async () => {
  const at = await harbour({}, 12);
  const since = new Date().toISOString();
  for (const phone of ['2', '3', '4'])
    for (let company = 0; company < 12; company++)
      await change(at, `C${company}`, { phone: `${phone}${company}` });
  const job = uuid();
  const asked: UndoManyAsked = {
    job,
    because: 'It was wrong.',
    by: 'Mara',
    rule: phoneToBookings.id,
    since,
    until: new Date(Date.now() + 1000).toISOString(),
  };
  const before = await previewUndo(database.pool, at.registry, {
    runs: await runsToPreview(database.pool, asked),
    rule: phoneToBookings.id,
  });
  expect(before).toMatchObject({ runs: 36, back: 24, stays: 0 });
  expect(before.records[0]?.fields[0]).toMatchObject({ before: '1' });
  await beginJob(database.pool, { id: job, kind: undoManyKind.kind, asked: { ...asked }, by: 'Mara' });
  let kills = 0;
  const killing = new Proxy(database.pool, {
    get(target, name) {
      if (name !== 'query') return Reflect.get(target, name, target) as unknown;
      return (text: unknown, ...rest: unknown[]) => {
        if (typeof text === 'string' && kills < 5 && text.includes('UPDATE jobs SET memory')) {
          kills++;
          throw new Error('killed');
        }
        return (target.query as (...all: unknown[]) => unknown).call(target, text, ...rest);
      };
    },
  });
  let ended = false;
  const handler = (async () => {
    while (!ended) {
      const { rows } = await database.pool.query<{ id: string }>(
        `SELECT DISTINCT record_id AS id FROM inbox WHERE state = 'waiting'`,
      );
      await Promise.all(rows.map(({ id }) => handle(companyRef(id), at)));
      await new Promise((done) => setTimeout(done, 5));
    }
  })();
  const runner = { ...handling(at), owner: 'one', kinds: [undoManyKind], lastTry: false };
  while ((await readJob(database.pool, job))?.state !== 'done')
    await runJob(job, { ...runner, pool: kills < 5 ? killing : database.pool }).catch(() => undefined);
  ended = true;
  await handler;
  expect(kills).toBe(5);
  expect(new Set(phones(at))).toEqual(new Set(['1']));
  expect(await readJob(database.pool, job)).toMatchObject({ done: 36, total: 36 });
});

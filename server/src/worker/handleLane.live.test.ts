import { pino } from 'pino';
import pg from 'pg';
import type { JsonObject } from '@vast-knot/core';
import { jobsOf, openTestDatabase, type TestDatabase } from '../fixtures/database';
import {
  companyEvent,
  companyRef,
  openHarbour,
  phoneToBookings,
  rule,
  type Harbour,
} from '../fixtures/harbour';
import { keepFirstSeen } from '../images/images';
import type { Lane } from '../inbox/lanes';
import { takeAll } from '../intake/takeAll';
import { readRun } from '../runs/list';
import { unwatched } from './computing';
import { handleLane } from './handleLane';
import { Sets } from './sets';
import { RightOfWay } from './rightOfWay';
import { Turns } from './turns';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() =>
  database.pool.query('TRUNCATE inbox, runs, images, flights, graphile_worker._private_jobs CASCADE'),
);

const lanes = [0, 1, 2, 3].map((lane): Lane => ({ system: 'book', lane }));

interface Handling {
  readonly stopping?: () => boolean;
  readonly woken?: (wake: () => void) => void;
}

/** Handles everything that waits in the lanes of the book. */
const handleAll = ({ registry }: Harbour, { stopping = () => false, woken }: Handling = {}) => {
  const sets = new Sets(database.pool, 40);
  const turns = new Turns();
  return Promise.all(
    lanes.map((lane) =>
      handleLane(lane, {
        pool: database.pool,
        registry: { get: () => Promise.resolve(registry), recent: () => Promise.resolve(registry) },
        computing: unwatched,
        sets,
        turns,
        rightOfWay: new RightOfWay(),
        stopping,
        log: pino({ level: 'silent' }),
        listen: (_lane, wake) => {
          woken?.(wake);
          return () => undefined;
        },
      }),
    ),
  );
};

/** A harbour with so many companies, each with one booking. */
async function harbourOf(count: number, more: Partial<Parameters<typeof openHarbour>[1]> = {}) {
  const ids = Array.from({ length: count }, (_none, at) => `C${at}`);
  const companies = ids.map((id): JsonObject => ({ id, name: id, phone: '1', town: 'Murrow', rev: 1 }));
  const bookings = ids.map((id): JsonObject => ({
    id: `B-${id}`,
    name: id,
    company: id,
    phone: '1',
    note: '',
  }));
  const harbour = openHarbour(database.pool, { companies, bookings, ...more });
  await keepFirstSeen(
    database.pool,
    companies.map((record) => ({ ref: companyRef(String(record['id'])), record })),
  );
  return { ...harbour, ids };
}

async function changeAll({ book, registry }: Harbour, ids: readonly string[], phone: string) {
  const events = ids.map((id) => {
    book.save('company', id, { phone });
    return companyEvent(book.record('company', id) ?? {});
  });
  return (await takeAll(database.pool, registry, events)).map(({ id }) => id);
}

/** How many statements are sent while something is done, `BEGIN` and `COMMIT` among them. */
async function counted(work: () => Promise<unknown>) {
  const query = jest.spyOn(pg.Client.prototype, 'query');
  try {
    await work();
    return query.mock.calls.length;
  } finally {
    query.mockRestore();
  }
}

test('a backlog of a thousand events costs two commits and six statements an event at most', async () => {
  const at = await harbourOf(1000);
  await changeAll(at, at.ids, '2');
  const before = await commits();
  const statements = await counted(() => handleAll(at));
  const after = await commits();
  expect(at.desk.all('booking').filter(({ phone }) => phone === '2')).toHaveLength(1000);
  expect(at.desk.taken).toHaveLength(1000);
  expect(statements / 1000).toBeLessThanOrEqual(6);
  // As the database counts them: statements outside of a transaction are one each.
  expect((after - before) / 1000).toBeLessThanOrEqual(2);
}, 60_000);

async function commits(): Promise<number> {
  // Each client tells what it did when it is idle, once a second at most.
  await new Promise((done) => setTimeout(done, 1500));
  await Promise.all(Array.from({ length: 24 }, () => database.pool.query('SELECT 1, pg_sleep(0.02)')));
  await new Promise((done) => setTimeout(done, 1500));
  const { rows } = await database.pool.query<{ count: string }>(
    'SELECT xact_commit AS count FROM pg_stat_database WHERE datname = current_database()',
  );
  return Number(rows[0]?.count);
}

test('one record’s events stay in order among those of others, and each is its own run', async () => {
  const at = await harbourOf(20);
  const runs = [
    ...(await changeAll(at, at.ids, '2')),
    ...(await changeAll(at, at.ids, '3')),
    ...(await changeAll(at, at.ids, '4')),
  ];
  await handleAll(at);
  const values = (id: string) =>
    at.desk.taken.flatMap(({ change }) =>
      change.ref.id === `B-${id}` && change.kind === 'edit' ? [change.edits[0]?.after] : [],
    );
  for (const id of at.ids) expect(values(id)).toEqual(['2', '3', '4']);
  for (const id of runs) expect((await readRun(database.pool, id ?? ''))?.result).toBe('wrote');
});

test('the trouble of one record is its own', async () => {
  const at = await harbourOf(30);
  at.desk.failure = ({ change }) =>
    change.ref.id === 'B-C7' ? { code: 'refused', message: 'Not this one.', retry: false } : undefined;
  const runs = await changeAll(at, at.ids, '2');
  await handleAll(at);
  const results = await Promise.all(runs.map(async (id) => (await readRun(database.pool, id ?? ''))?.result));
  expect(results.filter((result) => result === 'wrote')).toHaveLength(29);
  expect(results[7]).toBe('failed');
});

test('many events that write to one record all arrive, though each is computed from a version that another one overtakes', async () => {
  const addsName = rule(7, {
    trigger: phoneToBookings.trigger,
    finds: [
      {
        alias: 'booking',
        system: 'desk',
        recordType: 'booking',
        match: [{ field: 'company', is: 'equal', formula: '"shared"' }],
        none: 'stop',
        several: 'each',
      },
    ],
    actions: [
      {
        kind: 'write',
        target: 'booking',
        lines: [{ field: 'note', formula: 'target.note & "|" & id & "|"', policy: 'always' }],
      },
    ],
  });
  const shared = { id: 'S', name: 'S', company: 'shared', phone: '1', note: '' };
  // More than are handled at the same time: some begin while others compute anew.
  const at = await harbourOf(320, { rules: [addsName], bookings: [shared] });
  const runs = await changeAll(at, at.ids, '2');
  await handleAll(at);
  const note = String(at.desk.record('booking', 'S')?.['note']);
  expect(at.ids.filter((id) => !note.includes(`|${id}|`))).toEqual([]);
  for (const id of runs) {
    const run = await readRun(database.pool, id ?? '');
    expect(run?.result).toBe('wrote');
    // Overtaken once at most.
    expect(run?.attempts).toBeLessThanOrEqual(2);
  }
}, 30_000);

test('what waits for its time asks for a job then', async () => {
  const at = await harbourOf(1);
  await changeAll(at, at.ids, '2');
  const next = new Date(Date.now() + 60_000);
  await database.pool.query('UPDATE inbox SET next_at = $1', [next]);
  // The job that came with the events is the one that is at work.
  await database.pool.query('DELETE FROM graphile_worker._private_jobs');
  await handleAll(at);
  expect(at.desk.taken).toEqual([]);
  const { rows } = await database.pool.query<{ run_at: Date }>(
    'SELECT run_at FROM graphile_worker._private_jobs',
  );
  expect(rows.some(({ run_at }) => run_at.getTime() === next.getTime())).toBe(true);
});

test('law: what becomes due in the moment in which a lane is left is handled or has a job', async () => {
  const at = await harbourOf(1);
  for (let tries = 0; tries < 150; tries++) {
    await changeAll(at, at.ids, String(tries));
    await database.pool.query('DELETE FROM graphile_worker._private_jobs');
    await database.pool.query(
      `UPDATE inbox SET next_at = clock_timestamp() + $1 * interval '1 ms' WHERE state = 'waiting'`,
      [2 + (tries % 30) / 10],
    );
    await handleAll(at);
    const { rowCount: left } = await database.pool.query(`SELECT 1 FROM inbox WHERE state = 'waiting'`);
    const jobs = await jobsOf(database.pool, 'handle_lane');
    expect([tries, left === 0 || jobs.length > 0]).toEqual([tries, true]);
  }
}, 60_000);

test('an event that comes while its lane is at work is handled by it, beside one that takes long', async () => {
  const at = await harbourOf(60);
  let release = (): void => undefined;
  const held = new Promise<void>((done) => (release = done));
  const write = at.desk.write.bind(at.desk);
  at.desk.write = async (type, changes) => {
    if (changes.some(({ change }) => change.ref.id === 'B-C0')) await held;
    return write(type, changes);
  };
  await changeAll(at, ['C0'], '2');
  const wakes: (() => void)[] = [];
  const work = handleAll(at, { woken: (wake) => wakes.push(wake) });
  await new Promise((done) => setTimeout(done, 100));
  await changeAll(at, at.ids.slice(1), '2');
  for (const wake of wakes) wake();
  // Those of the lane of the one that hangs are handled by the job that is at work there; the other jobs ended before.
  const others = () => at.desk.all('booking').filter(({ phone }) => phone === '2').length;
  const inLane = await database.pool.query(
    `SELECT 1 FROM inbox WHERE record_id <> 'C0' AND lane_of(system, record_type, record_id) = lane_of('book', 'company', 'C0')`,
  );
  const enough = inLane.rowCount ?? 0;
  expect(enough).toBeGreaterThan(5);
  for (let tries = 0; others() < enough && tries < 100; tries++)
    await new Promise((done) => setTimeout(done, 20));
  expect(others()).toBeGreaterThanOrEqual(enough);
  expect(at.desk.record('booking', 'B-C0')?.['phone']).toBe('1');
  release();
  await work;
  expect(at.desk.record('booking', 'B-C0')?.['phone']).toBe('2');
});

test('a worker that is to end begins with nothing more, and leaves a job for the next one', async () => {
  const at = await harbourOf(30);
  await changeAll(at, at.ids, '2');
  await database.pool.query('DELETE FROM graphile_worker._private_jobs');
  await handleAll(at, { stopping: () => true });
  expect(at.desk.taken).toEqual([]);
  expect(await jobsOf(database.pool, 'handle_lane')).toHaveLength(4);
  await handleAll(at);
  expect(at.desk.taken).toHaveLength(30);
});

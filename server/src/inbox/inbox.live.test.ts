import { jobsOf, openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent, companyRef } from '../fixtures/harbour';
import {
  accept,
  insertEvents,
  keepRejected,
  lastId,
  lookUp,
  makeDue,
  notingTried,
  releaseWaiting,
  reopen,
} from './inbox';
import { dueInLane, nextInLane, queueLane, queueLost, type Lane } from './lanes';
import { nextOf } from '../runs/next';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE inbox, runs CASCADE'));

const oldest = async (id: string) =>
  (await nextOf(database.pool, [companyRef(id)])).get(`book/company/${id}`)?.waiting;

test('an event is taken once, whoever sends it again, and one job is queued for its lane', async () => {
  const { pool } = database;
  const event = companyEvent({ id: 'C1', phone: '1' });
  const id = await accept(pool, event);
  expect(id).toMatch(/^\d+$/);
  expect(await accept(pool, { ...event, record: { id: 'C1', phone: '2' } })).toBeUndefined();
  await accept(pool, companyEvent({ id: 'C1', phone: '3' }));
  expect(await jobsOf(pool, 'handle_lane')).toEqual([{ system: 'book', lane: expect.any(Number) as number }]);
  expect((await oldest('C1'))?.event.record).toEqual({ id: 'C1', phone: '1' });
});

test('events of one source are told apart by their id, and those of two sources by the source', async () => {
  const { pool } = database;
  const event = companyEvent({ id: 'C2' });
  await accept(pool, event);
  expect(await accept(pool, { ...event, source: '/other' })).toMatch(/^\d+$/);
  const { fresh } = await lookUp(pool, [
    event,
    companyEvent({ id: 'C3' }, { id: 'x' }),
    { ...event, id: 'y' },
  ]);
  expect(fresh.map(({ id }) => id)).toEqual(['x', 'y']);
});

test('of two that are the same in one batch the first is taken', async () => {
  const event = companyEvent({ id: 'C4', phone: '1' });
  const twice = [event, { ...event, record: { id: 'C4', phone: '2' } }];
  const { fresh } = await lookUp(database.pool, twice);
  expect(fresh.map(({ record }) => record['phone'])).toEqual(['1']);
});

test('what is done at once waits for nobody, and says why', async () => {
  const { pool } = database;
  const [own, other] = [companyEvent({ id: 'C5' }), companyEvent({ id: 'C6' })];
  const ids = await insertEvents(pool, [own, other], {
    ended: (event) => (event === own ? { result: 'own write', because: 'It was ours.' } : undefined),
    nameOf: () => 'Gullpoint',
  });
  const { rows } = await pool.query('SELECT id, state, because FROM inbox ORDER BY id');
  expect(rows).toEqual([
    { id: ids.get(own), state: 'done', because: 'It was ours.' },
    { id: ids.get(other), state: 'waiting', because: null },
  ]);
  expect((await lookUp(pool, [own, other])).waiting).toEqual(new Set(['book/company/C6']));
});

test('a try that has to be made again waits so long, and a record’s events keep their order', async () => {
  const { pool } = database;
  const first = await accept(pool, companyEvent({ id: 'C7', phone: '1' }));
  await accept(pool, companyEvent({ id: 'C7', phone: '2' }));
  await pool.query(
    notingTried([
      { id: first ?? '', state: 'waiting', because: 'It is away.', waitMs: 60_000, result: null },
    ]),
  );
  // The second one waits behind the first, though it was never tried.
  expect(await oldest('C7')).toMatchObject({ id: first, attempts: 1, due: false });
  expect(await makeDue(pool, first ?? '')).toEqual(companyRef('C7'));
  expect(await oldest('C7')).toMatchObject({ id: first, due: true });
});

test('only what failed or waits for another try is opened again', async () => {
  const { pool } = database;
  const id = (await accept(pool, companyEvent({ id: 'C8' }))) ?? '';
  expect((await reopen(pool, [id])).get(id)).toBeUndefined();
  await pool.query(notingTried([{ id, state: 'failed', because: 'No.', waitMs: 0, result: 'failed' }]));
  expect((await reopen(pool, [id])).get(id)).toEqual(companyRef('C8'));
  expect(await oldest('C8')).toMatchObject({ id, attempts: 0, due: true });
  await pool.query(notingTried([{ id, state: 'done', because: 'Done.', waitMs: 0, result: 'wrote' }]));
  expect((await reopen(pool, [id])).get(id)).toBeUndefined();
  expect(await makeDue(pool, id)).toBeUndefined();
});

const laneOf = async (id: string): Promise<Lane> => {
  const { rows } = await database.pool.query<Lane>(
    `SELECT 'book' AS system, lane_of('book', 'company', $1) AS lane`,
    [id],
  );
  return rows[0] ?? { system: 'book', lane: -1 };
};

test('a lane that is put off has one job, at the time for which it is; what comes meanwhile is for now', async () => {
  const { pool } = database;
  const lane = await laneOf('C9');
  const key = `lane-book-${lane.lane}`;
  const runAt = async () => {
    const { rows } = await pool.query<{ run_at: Date }>(
      `SELECT run_at FROM graphile_worker._private_jobs WHERE key = $1`,
      [key],
    );
    return rows.map(({ run_at }) => run_at.getTime());
  };
  await pool.query('SELECT graphile_worker.remove_job($1)', [key]);
  const at = new Date(Date.now() + 3_600_000);
  await queueLane(pool, lane, at);
  expect(await runAt()).toEqual([at.getTime()]);
  await accept(pool, companyEvent({ id: 'C9' }));
  const [now] = await runAt();
  expect(now).toBeLessThanOrEqual(Date.now());
  // Whoever ends with a lane does not put off what was asked for meanwhile.
  await queueLane(pool, lane, at);
  expect(await runAt()).toEqual([now]);
});

test('the records of a lane with something due come in the order of their events, and what is not due says when', async () => {
  const { pool } = database;
  const ids = await Promise.all(
    ['L1', 'L1', 'L2', 'L3'].map((id) => accept(pool, companyEvent({ id, phone: '1' }))),
  );
  const lanes = await Promise.all(['L1', 'L1', 'L2', 'L3'].map(laneOf));
  for (const lane of [0, 1, 2, 3]) {
    const here = ids.filter((_id, at) => lanes[at]?.lane === lane).map(String);
    const due = async (after: string) =>
      (await dueInLane(pool, { system: 'book', lane }, after, 10)).due.map(({ event }) => event);
    expect(await due('0')).toEqual(here.sort((a, b) => Number(a) - Number(b)));
    if (here[0] !== undefined) expect(await due(here[0])).toEqual(here.slice(1));
  }
  const at = new Date(Date.now() + 60_000);
  await pool.query('UPDATE inbox SET next_at = $1', [at]);
  const lane = await laneOf('L1');
  const looked = await dueInLane(pool, lane, '0', 10);
  expect(looked.due).toEqual([]);
  expect(await nextInLane(pool, lane, looked.at)).toEqual(at);
  // What became due since it was looked is told too, or nobody would handle it.
  await pool.query(`UPDATE inbox SET next_at = $1::timestamptz + interval '1 microsecond'`, [looked.at]);
  expect(await nextInLane(pool, lane, looked.at)).toBeInstanceOf(Date);
  expect(await nextInLane(pool, lane, (await dueInLane(pool, lane, '0', 10)).at)).toBeUndefined();
});

test('a lane that lost its job gets another one; one that has it does not', async () => {
  const { pool } = database;
  await accept(pool, companyEvent({ id: 'C10' }));
  expect(await queueLost(pool, -1)).toBe(0);
  await pool.query('DELETE FROM graphile_worker._private_jobs');
  expect(await queueLost(pool)).toBe(0);
  expect(await queueLost(pool, -1)).toBe(1);
  expect(await jobsOf(pool, 'handle_lane')).toEqual([await laneOf('C10')]);
});

test('what cannot be taken is kept with its reason, cut where it is long, and the oldest go first', async () => {
  const { pool } = database;
  const rejected = { system: 'book', state: 'refused' as const, because: 'Not signed.' };
  await keepRejected(pool, { ...rejected, body: `a\0${'x'.repeat(20_000)}` });
  const { rows } = await pool.query<{ body: string; because: string }>('SELECT body, because FROM inbox');
  expect(rows[0]?.because).toBe('Not signed.');
  expect(rows[0]?.body).toHaveLength(16_384);
  expect(rows[0]?.body.startsWith('a\ufffd')).toBe(true);
  await pool.query(
    `INSERT INTO inbox (system, state, because) SELECT 'book', 'refused', 'flood' FROM generate_series(1, 1100)`,
  );
  await keepRejected(pool, { ...rejected, body: 'last' });
  const kept = await pool.query<{ count: string; first: string }>(
    `SELECT count(*), min(because) AS first FROM inbox WHERE state = 'refused'`,
  );
  expect(kept.rows[0]).toEqual({ count: '1000', first: 'Not signed.' });
  expect(await lastId(pool)).toMatch(/^\d+$/);
});

describe('what was refused by a system that is away', () => {
  const stands = (runner: Pick<TestDatabase['pool'], 'query'>, standing: string) =>
    runner.query(
      `INSERT INTO system_states (system, standing) VALUES ('desk', $1)
       ON CONFLICT (system) DO UPDATE SET standing = EXCLUDED.standing`,
      [standing],
    );
  const refused = (id: string, away: boolean) =>
    database.pool.query(
      notingTried([
        { id, state: 'waiting', because: '', waitMs: 30_000, waitsFor: 'desk', away, result: null },
      ]),
    );
  const waits = async (id: string) => {
    const { rows } = await database.pool.query<{ seconds: number }>(
      'SELECT extract(epoch FROM next_at - now())::float8 AS seconds FROM inbox WHERE id = $1',
      [id],
    );
    return (rows[0]?.seconds ?? NaN) > 10;
  };
  const waiting = async (company: string) =>
    (await accept(database.pool, companyEvent({ id: company }))) ?? '';

  beforeAll(() =>
    database.pool.query(
      `INSERT INTO systems (key, position, definition, connection) VALUES ('desk', 0, '{}', '{}')`,
    ),
  );

  test.each([
    ['away', true, true],
    ['answers', true, false],
    ['slow', true, false],
    // It answers, and is only asked no more often than it allows.
    ['answers', false, true],
    ['limited', true, true],
  ])(
    'while it %s by now, and was away then: %s, it waits as long as it was told: %s',
    async (standing, away, long) => {
      const id = await waiting('C90');
      await stands(database.pool, standing);
      await refused(id, away);
      expect(await waits(id)).toBe(long);
    },
  );

  test('does not wait where the system is let go in the same moment, whichever of the two comes first', async () => {
    const { pool } = database;
    const [before, after] = [await waiting('C91'), await waiting('C92')];
    await stands(pool, 'away');
    await refused(before, true);
    const client = await pool.connect();
    await client.query('BEGIN');
    await stands(client, 'answers');
    await releaseWaiting(client, 'desk');
    const late = refused(after, true);
    await new Promise((done) => setTimeout(done, 100));
    await client.query('COMMIT');
    client.release();
    await late;
    expect([await waits(before), await waits(after)]).toEqual([false, false]);
  });
});

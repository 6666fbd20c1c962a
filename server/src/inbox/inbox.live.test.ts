import { jobsOf, openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent, companyRef } from '../fixtures/harbour';
import {
  accept,
  insertEvents,
  keepRejected,
  lastId,
  makeDue,
  noteTried,
  notTakenBefore,
  oldestWaiting,
  queueRecord,
  recordsWithWaiting,
  reopen,
} from './inbox';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE inbox, runs CASCADE'));

test('an event is taken once, whoever sends it again, and one job is queued for its record', async () => {
  const { pool } = database;
  const event = companyEvent({ id: 'C1', phone: '1' });
  const id = await accept(pool, event);
  expect(id).toMatch(/^\d+$/);
  expect(await accept(pool, { ...event, record: { id: 'C1', phone: '2' } })).toBeUndefined();
  await accept(pool, companyEvent({ id: 'C1', phone: '3' }));
  expect(await jobsOf(pool, 'handle_record')).toEqual([{ system: 'book', recordType: 'company', id: 'C1' }]);
  expect((await oldestWaiting(pool, companyRef('C1')))?.event.record).toEqual({ id: 'C1', phone: '1' });
});

test('events of one source are told apart by their id, and those of two sources by the source', async () => {
  const { pool } = database;
  const event = companyEvent({ id: 'C2' });
  await accept(pool, event);
  expect(await accept(pool, { ...event, source: '/other' })).toMatch(/^\d+$/);
  const fresh = await notTakenBefore(pool, [
    event,
    companyEvent({ id: 'C3' }, { id: 'x' }),
    { ...event, id: 'y' },
  ]);
  expect(fresh.map(({ id }) => id)).toEqual(['x', 'y']);
});

test('of two that are the same in one batch the first is taken', async () => {
  const event = companyEvent({ id: 'C4', phone: '1' });
  const twice = [event, { ...event, record: { id: 'C4', phone: '2' } }];
  expect((await notTakenBefore(database.pool, twice)).map(({ record }) => record['phone'])).toEqual(['1']);
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
  expect(await recordsWithWaiting(pool, [own.ref, other.ref])).toEqual(new Set(['book/company/C6']));
});

test('a try that has to be made again waits so long, and a record’s events keep their order', async () => {
  const { pool } = database;
  const first = await accept(pool, companyEvent({ id: 'C7', phone: '1' }));
  await accept(pool, companyEvent({ id: 'C7', phone: '2' }));
  await noteTried(pool, first ?? '', {
    state: 'waiting',
    because: 'It is away.',
    waitMs: 60_000,
    result: null,
  });
  // The second one waits behind the first, though it was never tried.
  expect(await oldestWaiting(pool, companyRef('C7'))).toMatchObject({ id: first, attempts: 1, due: false });
  expect(await makeDue(pool, first ?? '')).toEqual(companyRef('C7'));
  expect(await oldestWaiting(pool, companyRef('C7'))).toMatchObject({ id: first, due: true });
});

test('only what failed or waits for another try is opened again', async () => {
  const { pool } = database;
  const id = (await accept(pool, companyEvent({ id: 'C8' }))) ?? '';
  expect(await reopen(pool, id)).toBeUndefined();
  await noteTried(pool, id, { state: 'failed', because: 'No.', waitMs: 0, result: 'failed' });
  expect(await reopen(pool, id)).toEqual(companyRef('C8'));
  expect(await oldestWaiting(pool, companyRef('C8'))).toMatchObject({ id, attempts: 0, due: true });
  await noteTried(pool, id, { state: 'done', because: 'Done.', waitMs: 0, result: 'wrote' });
  expect(await reopen(pool, id)).toBeUndefined();
  expect(await makeDue(pool, id)).toBeUndefined();
});

test('a job that was put off is there once, at its new time', async () => {
  const { pool } = database;
  const at = new Date(Date.now() + 3_600_000);
  await accept(pool, companyEvent({ id: 'C9' }));
  await queueRecord(pool, companyRef('C9'), at);
  const { rows } = await pool.query<{ run_at: Date }>(
    `SELECT run_at FROM graphile_worker._private_jobs WHERE key = 'book/company/C9'`,
  );
  expect(rows.map(({ run_at }) => run_at.getTime())).toEqual([at.getTime()]);
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

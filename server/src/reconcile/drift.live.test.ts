import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { openHarbour, phoneToBookings, type Harbour } from '../fixtures/harbour';
import { askToCancel } from '../jobs/repository';
import { runJob } from '../jobs/runJob';
import { insertRule, withdrawRule } from '../rules/repository';
import { driftTick, endDrift, readDrift, watchDrift } from './drift';
import { lookKind } from './look';

const { id: rule, version: _version, ...body } = phoneToBookings;
let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
  await insertRule(database.pool, { id: rule, position: 1, body, published: true });
});
afterAll(() => database.close());

/** Does the looks that were begun. */
async function lookNow({ registry }: Harbour) {
  const { pool } = database;
  const { rows } = await pool.query<{ id: string }>(`SELECT id FROM jobs WHERE state = 'waiting'`);
  for (const { id } of rows)
    await runJob(id, {
      pool,
      registry: { get: () => Promise.resolve(registry), recent: () => Promise.resolve(registry) },
      owner: 'one',
      kinds: [lookKind],
      stopping: () => false,
      lastTry: false,
    });
}

test('a rule is looked at by the clock of its zone, once for a minute, with a line for each day and what is new', async () => {
  const { pool } = database;
  const at = openHarbour(pool, {
    companies: ['C1', 'C2', 'C3'].map((id) => ({ id, name: id, phone: '1', rev: 1 })),
    bookings: ['C1', 'C2', 'C3'].map((company, n) => ({
      id: `B${n}`,
      name: 'b',
      company,
      phone: n === 0 ? 'old' : '1',
      rev: 1,
    })),
  });
  const tick = (minute: string) => driftTick(pool, at.registry, minute);
  await watchDrift(pool, { rule, schedule: { at: '02:00', zone: 'Europe/London', days: [] }, by: 'Mara' });
  // In summer the clock there is an hour before UTC.
  expect(await tick('2026-07-01T02:00:00.000Z')).toBe(0);
  expect(await tick('2026-07-01T01:00:00.000Z')).toBe(1);
  expect(await tick('2026-07-01T01:00:00.000Z')).toBe(0);
  expect((await readDrift(pool, rule))?.looks).toMatchObject([{ counts: null, fresh: null, problem: null }]);
  await lookNow(at);
  expect((await readDrift(pool, rule))?.looks).toMatchObject([
    { counts: { right: 2, changes: 1 }, fresh: 1 },
  ]);
  expect(at.desk.taken).toEqual([]);

  at.desk.save('booking', 'B2', { phone: 'by hand' });
  expect(await tick('2026-07-02T01:00:00.000Z')).toBe(1);
  await lookNow(at);
  // What was out of step the day before is nothing new.
  expect((await readDrift(pool, rule))?.looks[0]).toMatchObject({
    counts: { right: 1, changes: 2 },
    fresh: 1,
  });
  expect(await tick('2026-07-03T01:00:00.000Z')).toBe(1);
  await lookNow(at);
  expect((await readDrift(pool, rule))?.looks.map(({ fresh }) => fresh)).toEqual([0, 1, 1]);

  // What was looked at is forgotten: nothing is taken for new because of that.
  await pool.query('DELETE FROM reconciles');
  at.desk.save('booking', 'B1', { phone: 'by hand' });
  expect(await tick('2026-07-04T01:00:00.000Z')).toBe(1);
  await lookNow(at);
  expect((await readDrift(pool, rule))?.looks[0]).toMatchObject({ counts: { changes: 3 }, fresh: 1 });

  // One that could not be done to its end says so.
  expect(await tick('2026-07-05T01:00:00.000Z')).toBe(1);
  at.book.away = true;
  const { rows } = await pool.query<{ id: string }>(`SELECT id FROM jobs WHERE state = 'waiting'`);
  await askToCancel(pool, rows[0]?.id ?? '');
  at.book.away = false;
  expect((await readDrift(pool, rule))?.looks[0]).toMatchObject({
    counts: null,
    problem: 'It was stopped before it had looked at all records.',
  });

  // On days that are not chosen it is not looked: the eleventh is a Saturday.
  await watchDrift(pool, { rule, schedule: { at: '02:00', zone: 'Europe/London', days: [1] }, by: 'Ines' });
  expect(await tick('2026-07-11T01:00:00.000Z')).toBe(0);
  await withdrawRule(pool, rule, { by: 'Ines', why: 'Not now.' });
  expect(await tick('2026-07-06T01:00:00.000Z')).toBe(0);
  expect((await readDrift(pool, rule))?.looks[0]).toMatchObject({ problem: 'The rule is not published.' });
  await endDrift(pool, rule);
  expect(await readDrift(pool, rule)).toBeUndefined();
});

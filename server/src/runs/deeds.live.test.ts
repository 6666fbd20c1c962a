import { v7 as uuid } from 'uuid';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { readDeeds } from './deeds';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

const busy = uuid();
const seldom = uuid();
const never = uuid();

async function run(rules: readonly string[], result: string, at: string): Promise<string> {
  const { rows } = await database.pool.query<{ id: string }>(
    `INSERT INTO inbox (source, event_id, system, record_type, record_id, event, state, result, received_at)
     VALUES ('test', $1, 'desk', 'booking', 'B1', '{}', 'done', $2, $3) RETURNING id::text`,
    [uuid(), result, at],
  );
  const id = rows[0]?.id ?? '';
  await database.pool.query(`INSERT INTO runs (id, state, result, rules_fired) VALUES ($1, 'done', $2, $3)`, [
    id,
    result,
    rules,
  ]);
  return id;
}

test('each rule tells of its last run and of the failures of the last day', async () => {
  const old = await run([seldom], 'failed', '2026-07-01T08:00:00.000Z');
  await run([busy], 'failed', '2026-07-09T08:00:00.000Z');
  await run([busy, seldom], 'nothing', '2026-07-01T09:00:00.000Z');
  await database.pool.query(
    `INSERT INTO inbox (source, event_id, system, record_type, record_id, event, state, result, received_at)
     SELECT 'fill', i::text, 'desk', 'booking', i::text, '{}', 'done', 'wrote', '2026-07-09T09:00:00Z' FROM generate_series(1, 5100) AS i`,
  );
  await database.pool.query(
    `INSERT INTO runs (id, state, result, rules_fired) SELECT id, 'done', 'wrote', ARRAY[$1] FROM inbox WHERE source = 'fill'`,
    [busy],
  );
  await run([busy], 'partly failed', '2026-07-10T08:00:00.000Z');
  const last = await run([busy], 'wrote', '2026-07-10T09:00:00.000Z');
  const deeds = await readDeeds(database.pool, [seldom, never, busy], new Date('2026-07-10T10:00:00.000Z'));
  expect(deeds).toEqual([
    { id: seldom, last: { run: String(Number(old) + 2), at: '2026-07-01T09:00:00.000Z' }, failed: 0 },
    { id: never, last: null, failed: 0 },
    { id: busy, last: { run: last, at: '2026-07-10T09:00:00.000Z' }, failed: 1 },
  ]);
});

import { randomUUID } from 'node:crypto';
import { pino } from 'pino';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent } from '../fixtures/harbour';
import { keepFirstSeen } from '../images/images';
import { sightings } from '../images/words';
import { accept } from '../inbox/inbox';
import { WordKeeper } from './wordKeeper';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

/** Shows so many companies to a keeper for the first time. Returns how often it rested while it kept what they hold. */
async function restsOver(companies: number, town: string): Promise<number> {
  const records = Array.from({ length: companies }, (_none, at) => ({
    ref: { system: 'book', recordType: 'company', id: `${town} ${at}` },
    record: { town },
  }));
  await keepFirstSeen(database.pool, records);
  let rests = 0;
  const keeper = new WordKeeper(database.pool, pino({ enabled: false }), async (ms) => {
    expect(ms).toBeGreaterThan(0);
    rests++;
  });
  try {
    await keeper.keep();
  } finally {
    await keeper.stop();
  }
  expect(await sightings(database.pool, town, companies + 1)).toHaveLength(companies);
  return rests;
}

test('words are kept without a rest while there is nothing else to do, and with rests while a job is at work or an event waits', async () => {
  expect(await restsOver(1200, 'Gullpoint')).toBe(0);
  const id = randomUUID();
  await database.pool.query(
    `INSERT INTO jobs (id, kind, asked, asked_by, state) VALUES ($1, 'look', '{}', 'admin', 'at work')`,
    [id],
  );
  // Five hundred at a time: three times.
  expect(await restsOver(1200, 'Northport')).toBe(3);
  await database.pool.query(`UPDATE jobs SET state = 'done' WHERE id = $1`, [id]);
  expect(await restsOver(600, 'Southport')).toBe(0);
  const { claimed, ...told } = companyEvent({ id: 'W1' });
  await accept(database.pool, { ...told, claimed });
  expect(await restsOver(600, 'Eastport')).toBe(2);
});

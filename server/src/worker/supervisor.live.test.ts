/** A worker thread that ends: another follows, and what it computed at that moment is noted. */
import { resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { pino } from 'pino';
import type { Config } from '../config/config';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent } from '../fixtures/harbour';
import { accept } from '../inbox/inbox';
import { Computing } from './computing';
import { Supervisor } from './supervisor';

jest.setTimeout(60_000);

let database: TestDatabase;
const events: string[] = [];
beforeAll(async () => {
  database = await openTestDatabase();
  for (let at = 0; at < 3; at++)
    events.push((await accept(database.pool, companyEvent({ id: `S${at}`, name: 'x', phone: '1' }))) ?? '');
});
afterAll(() => database.close());

const mortal = pathToFileURL(resolve(__dirname, '../fixtures/threads/mortal.mjs'));

async function until(holds: () => Promise<boolean>): Promise<void> {
  for (let tries = 0; tries < 200; tries++) {
    if (await holds()) return;
    await new Promise((done) => setTimeout(done, 100));
  }
  throw new Error('it did not come to that');
}

async function superviseMortal(plan: readonly string[]) {
  await database.pool.query('DELETE FROM computation_deaths');
  const tries = new SharedArrayBuffer(4);
  const supervisor = await Supervisor.start({
    file: mortal,
    config: {
      mortal: { plan, tries },
      workerLimits: { silentMs: 2000, megabytes: 64 },
    } as unknown as Config,
    pool: database.pool,
    log: pino({ level: 'silent' }),
  });
  return { supervisor, threads: () => new Int32Array(tries)[0] ?? 0 };
}

const noted = async () => {
  const { rows } = await database.pool.query<{ event_id: string; deaths: number }>(
    'SELECT event_id, deaths FROM computation_deaths ORDER BY event_id',
  );
  return rows;
};

test.each([['swell'], ['hang']])('by a thread that ends by “%s”', async (end) => {
  const { supervisor, threads } = await superviseMortal([end, end]);
  await until(() => Promise.resolve(threads() === 3));
  // What had been computed before is innocent. The event of the first end is number 1, that of the second number 2.
  expect(await noted()).toEqual([
    { event_id: '1', deaths: 1 },
    { event_id: '2', deaths: 1 },
  ]);
  expect(events.slice(0, 2)).toEqual(['1', '2']);
  await supervisor.stop();
});

test('a thread that breaks for another reason is followed, and nothing that it computed is suspected', async () => {
  const { supervisor, threads } = await superviseMortal(['throw', 'throw']);
  await until(() => Promise.resolve(threads() === 3));
  expect(await noted()).toEqual([]);
  await supervisor.stop();
});

test('what a thread was at is noted once the database is there again, and only then another begins', async () => {
  const { supervisor, threads } = await superviseMortal(['swell']);
  await database.pool.query('ALTER TABLE computation_deaths RENAME TO away');
  await new Promise((done) => setTimeout(done, 2500));
  expect(threads()).toBe(1);
  await database.pool.query('ALTER TABLE away RENAME TO computation_deaths');
  await until(() => Promise.resolve(threads() === 2));
  expect(await noted()).toEqual([{ event_id: '1', deaths: 1 }]);
  await supervisor.stop();
});

test('a thread that hangs when the server stops is ended all the same', async () => {
  const { supervisor } = await superviseMortal(['hang']);
  await new Promise((done) => setTimeout(done, 300));
  await supervisor.stop();
});

test('a suspected event is computed while nothing else is, and nothing waits for ever', async () => {
  const log: string[] = [];
  let running = 0;
  let most = 0;
  let alone = 0;
  const computing = new Computing(({ event, computes }) => log.push(`${computes ? '+' : '-'}${event}`));
  const work = (event: string, suspected: boolean) =>
    computing.around(event, suspected, async () => {
      running++;
      most = Math.max(most, running);
      await new Promise((done) => setTimeout(done, 10));
      if (suspected) alone = Math.max(alone, running);
      running--;
    });
  await Promise.all([
    work('a', false),
    work('b', false),
    work('x', true),
    work('c', false),
    work('y', true),
    work('d', false),
  ]);
  expect(most).toBe(2);
  expect(alone).toBe(1);
  expect(log).toHaveLength(12);
  const failing = computing.around('z', true, () => Promise.reject(new Error('broken')));
  await expect(failing).rejects.toThrow('broken');
  await work('e', false);
});

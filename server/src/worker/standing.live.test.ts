import { pino } from 'pino';
import { Gates } from '../connector/gates';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent } from '../fixtures/harbour';
import { accept, notingTried } from '../inbox/inbox';
import { readHealth } from '../systems/states';
import { Standing } from './standing';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
  await database.pool.query(
    `INSERT INTO systems (key, position, definition, connection) VALUES ('desk', 1, '{}', '{}')`,
  );
});
afterAll(() => database.close());

/** What a process holds of how systems stand. */
async function aProcess() {
  const gates: Gates = new Gates((system, state) => standing.changed(system, state));
  const { pool, url } = database;
  const standing = new Standing(gates, { databaseUrl: url, pool, log: pino({ level: 'silent' }) });
  await standing.start();
  const gate = gates.of('desk');
  return {
    gate,
    asks: (status: number) =>
      gate.through(() => Promise.resolve({ status, headers: {} })).catch(() => undefined),
    /** How often its gate answers is kept even where nothing changes, as it is every ten seconds. */
    freshens: () => standing.changed('desk', gate.state),
    stop: () => standing.stop(),
  };
}

const until = async (what: string, look: () => Promise<boolean> | boolean) => {
  for (const end = Date.now() + 5000; Date.now() < end;) {
    if (await look()) return;
    await new Promise((done) => setTimeout(done, 10));
  }
  throw new Error(`${what} did not come`);
};
const stands = async () => (await readHealth(database.pool))[0]?.standing;

test('whoever finds that a system answers again lets everybody know, though it last heard itself that it answers', async () => {
  const [one, other] = [await aProcess(), await aProcess()];
  try {
    await other.asks(200);
    other.freshens();
    await until('the answer', async () => (await readHealth(database.pool))[0]?.answeredAt !== null);
    for (let tries = 0; tries < 6; tries++) await one.asks(500);
    await until('away', async () => (await stands()) === 'away' && other.gate.state.standing === 'away');
    const id = await accept(database.pool, companyEvent({ id: 'C1' }));
    await database.pool.query(
      notingTried([
        {
          id: id ?? '',
          state: 'waiting',
          because: 'away',
          waitMs: 60_000,
          waitsFor: 'desk',
          away: true,
          result: null,
        },
      ]),
    );
    other.gate.tryNow();
    await other.asks(200);
    await until('the event is let go', async () => {
      const { rows } = await database.pool.query<{ waits: string | null }>(
        'SELECT waits_for AS waits FROM inbox',
      );
      return rows[0]?.waits === null;
    });
    await until('the other one hears', () => one.gate.state.standing === 'answers');
  } finally {
    await one.stop();
    await other.stop();
  }
});

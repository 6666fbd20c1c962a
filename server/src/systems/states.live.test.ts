import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { deskSystem } from '../fixtures/harbour';
import { insertSystem, readConnection } from './repository';
import {
  keepStanding,
  noteCaughtUp,
  noteSubscribed,
  readHealth,
  isLearnt,
  type FoundStanding,
} from './states';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
  const connection = readConnection({ events: { types: {}, record: '/record' } });
  await insertSystem(database.pool, { position: 0, definition: deskSystem, connection });
});
afterAll(() => database.close());

const at = (minute: number) => new Date(Date.UTC(2026, 2, 9, 10, minute));
const found = (standing: FoundStanding['standing'], minute: number): FoundStanding => ({
  standing,
  since: at(minute),
  because: standing === 'answers' ? '' : 'does not answer.',
  nextTry: null,
  milliseconds: null,
  answeredAt: null,
});

test('how a system stood before is told to whoever finds out the next, and since when it stands so stays', async () => {
  const { pool } = database;
  expect(await keepStanding(pool, 'desk', found('away', 1))).toBeUndefined();
  // Another process finds the same a minute later.
  expect(await keepStanding(pool, 'desk', found('away', 2))).toBe('away');
  const [away] = await readHealth(pool);
  expect(away).toMatchObject({ system: 'desk', standing: 'away', because: 'does not answer.', waiting: 0 });
  expect(new Date(away?.since ?? 0)).toEqual(at(1));
  expect(await keepStanding(pool, 'desk', found('answers', 5))).toBe('away');
  expect(new Date((await readHealth(pool))[0]?.since ?? 0)).toEqual(at(5));
  expect(await keepStanding(pool, 'nobody', found('away', 6))).toBeUndefined();
});

test('a system is learnt once, and caught up with from then on', async () => {
  const { pool } = database;
  expect(await isLearnt(pool, 'desk')).toBe(false);
  await noteSubscribed(pool, 'desk', 'It refused.');
  await noteCaughtUp(pool, 'desk');
  expect(await isLearnt(pool, 'desk')).toBe(true);
});

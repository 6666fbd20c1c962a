import { pino } from 'pino';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { bookSystem, openHarbour } from '../fixtures/harbour';
import { noteLookProblem, readHeard } from '../systems/listening';
import { insertSystem, readConnection } from '../systems/repository';
import { look } from './listenToSystem';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
  const connection = readConnection({ events: { types: {}, record: '/record' } });
  await insertSystem(database.pool, { position: 0, definition: bookSystem, connection });
});
afterAll(() => database.close());

test('after a first look that failed the records that are there are learnt, and not taken for new', async () => {
  const { pool } = database;
  const { registry, book } = openHarbour(pool, { companies: [{ id: 'C1', phone: '1', rev: 1 }] });
  await noteLookProblem(pool, 'book', 'company', 'Book does not answer.');
  const lookNow = async () =>
    look(
      { system: 'book', recordType: 'company', why: 'comparing', now: new Date() },
      'compared',
      { pool, registry, log: pino({ level: 'silent' }), now: new Date() },
      (await readHeard(pool, 'book')).get('company'),
    );
  expect((await lookNow()).taken).toBe(0);
  book.save('company', 'C2', { phone: '2' });
  expect((await lookNow()).taken).toBe(1);
});

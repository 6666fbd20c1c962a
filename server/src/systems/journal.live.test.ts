import type { System } from '@vast-knot/core';
import type { Exchanged } from '../connector/exchanged';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { deskSystem } from '../fixtures/harbour';
import { clearExchanges, Journal, readExchanges, readMessages } from './journal';
import { insertSystem, readConnection } from './repository';

let database: TestDatabase;
const [first] = deskSystem.recordTypes;
/** The desk, whose phones are personal. */
const system: System = {
  ...deskSystem,
  recordTypes: first
    ? [
        {
          ...first,
          fields: [...first.fields, { name: 'phone', label: 'Phone', type: 'text', sensitivity: 'personal' }],
        },
      ]
    : [],
};
beforeAll(async () => {
  database = await openTestDatabase();
  const connection = readConnection({ events: { types: {}, record: '/record' } });
  await insertSystem(database.pool, { position: 0, definition: system, connection });
});
afterAll(() => database.close());

const exchange = (at: number, more: Partial<Exchanged> = {}): Exchanged => ({
  at: new Date(Date.UTC(2026, 2, 9, 10, 0, at)).toISOString(),
  method: 'GET',
  url: `http://desk.example/parties?n=${at}`,
  requestHeaders: {},
  requestBody: '',
  status: 200,
  answerHeaders: {},
  answerBody: '{}',
  milliseconds: 3,
  problem: '',
  ...more,
});
const noted = async (...all: Exchanged[]) => {
  const journal = new Journal(database.pool, (error) => {
    throw error;
  });
  for (const exchanged of all) journal.note(system, { exchanged, secret: 's3cret-key' });
  await journal.stop();
  return readExchanges(database.pool, system.key);
};

test('the newest hundred are kept, the newest first', async () => {
  await noted(...Array.from({ length: 70 }, (_none, at) => exchange(at)));
  const kept = await noted(...Array.from({ length: 70 }, (_none, at) => exchange(70 + at)));
  expect(kept).toHaveLength(100);
  expect([kept[0]?.url, kept.at(-1)?.url]).toEqual([
    'http://desk.example/parties?n=139',
    'http://desk.example/parties?n=40',
  ]);
});

test('values of sensitive fields stand nowhere: in bodies, however deep, and in addresses', async () => {
  const [kept] = await noted(
    exchange(1, {
      url: 'http://desk.example/parties?filter%5Bphone%5D=%2B44&limit=5',
      requestBody: '{"set":{"phone":"+44","name":"Holm"}}',
      answerBody: '{"data":[{"phone":"+44","telephone":"x"}]}',
    }),
  );
  expect(kept).toMatchObject({
    url: 'http://desk.example/parties?filter%5Bphone%5D=•••&limit=5',
    requestBody: '{"set":{"phone":"•••","name":"Holm"}}',
    answerBody: '{"data":[{"phone":"•••","telephone":"x"}]}',
  });
});

test('the secret with which one signs in stands nowhere, also where the system repeats it', async () => {
  const [kept] = await noted(
    exchange(1, { url: 'http://desk.example/parties?next=s3cret-key', answerBody: '{"wrong":"s3cret-key"}' }),
  );
  expect(JSON.stringify(kept)).not.toContain('s3cret');
});

test('what was kept for a day is not shown any more, and goes', async () => {
  await database.pool.query(`UPDATE exchanges SET kept_at = now() - interval '25 hours'`);
  const kept = await noted(exchange(1));
  expect(kept).toHaveLength(1);
  await clearExchanges(database.pool);
  expect((await database.pool.query('SELECT 1 FROM exchanges')).rowCount).toBe(1);
});

test('long bodies, what is no JSON, and what no database keeps do no harm', async () => {
  const kept = await noted(
    exchange(1, { answerBody: `"${'x'.repeat(40_000)}"` }),
    exchange(2, { answerBody: '<html>+44</html>' }),
    exchange(3, { problem: 'a\0b', status: undefined }),
  );
  expect(kept.slice(0, 3).map(({ answerBody, problem, status }) => [answerBody, problem, status])).toEqual([
    ['{}', 'a\ufffdb', null],
    ['(16 characters that are no JSON, not kept)', '', 200],
    ['(40,002 characters, not kept)', '', 200],
  ]);
});

test('of messages the last five are kept that were taken, and the last five that were not, beside what we asked', async () => {
  const asked = (await noted(exchange(1))).length;
  const journal = new Journal(database.pool, (error) => {
    throw error;
  });
  for (let at = 0; at < 9; at++) {
    const message = exchange(at, { method: 'POST', url: '/hooks/desk', requestBody: '{"phone":"+44"}' });
    journal.note(system, { exchanged: message, secret: 's3cret-key' }, 'taken');
    journal.note(system, { exchanged: { ...message, status: 401 }, secret: 's3cret-key' }, 'refused');
  }
  await journal.stop();
  const messages = await readMessages(database.pool, system.key);
  expect(messages.filter(({ status }) => status === 200)).toHaveLength(5);
  expect(messages.filter(({ status }) => status === 401)).toHaveLength(5);
  expect(messages[0]?.requestBody).toBe('{"phone":"•••"}');
  expect(await readExchanges(database.pool, system.key)).toHaveLength(asked);
});

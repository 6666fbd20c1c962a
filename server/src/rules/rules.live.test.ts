import { v7 as uuid } from 'uuid';
import type { RuleBody } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { phoneToBookings } from '../fixtures/harbour';
import {
  createRule,
  fileRules,
  listRemoved,
  listRules,
  orderRules,
  publishedRules,
  publishRule,
  readHistory,
  readRule,
  removeRule,
  restoreRule,
  saveDraft,
  withdrawRule,
} from './repository';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE rules CASCADE'));

const { id: _id, version: _version, ...phoneBody } = phoneToBookings;
const body = (name: string): RuleBody => ({ ...phoneBody, name });
const make = (name: string) => createRule(database.pool, body(name), { by: 'Mara', folder: '' });
const names = async () => (await listRules(database.pool)).map(({ draft }) => draft.name);
const run = async () =>
  (await publishedRules(database.pool)).map(({ name, version }) => `${name} ${version}`);

test('rules of one record type change places among themselves, and all others stay where they are', async () => {
  const [a = '', , c = '', d = ''] = [await make('A'), await make('B'), await make('C'), await make('D')];
  expect(await orderRules(database.pool, [d, a], [a, d])).toBe(true);
  expect(await names()).toEqual(['D', 'B', 'C', 'A']);
  expect(await orderRules(database.pool, [a, c, d], [d, c, a])).toBe(true);
  expect(await names()).toEqual(['A', 'B', 'C', 'D']);
  expect(await orderRules(database.pool, [c, uuid()], [c])).toBe(true);
  expect(await names()).toEqual(['A', 'B', 'C', 'D']);
  // Whoever saw another order changes nothing.
  expect(await orderRules(database.pool, [d, a], [d, a])).toBe(false);
  expect(await names()).toEqual(['A', 'B', 'C', 'D']);
});

test('many who put rules in order at the same time come one after the other', async () => {
  const ids: string[] = [];
  for (let at = 0; at < 12; at++) ids.push(await make(`R${at}`));
  const turned = [...ids].reverse();
  await Promise.all(
    Array.from({ length: 16 }, (_none, at) =>
      orderRules(database.pool, ...(at % 2 ? ([ids, turned] as const) : ([turned, ids] as const))),
    ),
  );
  const order = (await listRules(database.pool)).map(({ id }) => id);
  expect([ids.join(), turned.join()]).toContain(order.join());
});

test('a rule that is removed does not run, and runs as before when it is brought back', async () => {
  const id = await make('A');
  await publishRule(database.pool, id, 1, { by: 'Mara', note: 'The port asked for it.' });
  await fileRules(database.pool, [id], 'Ports');
  expect(await removeRule(database.pool, id, 'Ines')).toBe(true);
  expect(await removeRule(database.pool, id, 'Ines')).toBe(false);
  expect([await names(), await run()]).toEqual([[], []]);
  expect(await readRule(database.pool, id)).toBeUndefined();
  expect(await listRemoved(database.pool)).toEqual([
    { id, name: 'A', by: 'Ines', at: expect.any(Date) as Date, version: 1 },
  ]);
  expect(await restoreRule(database.pool, id)).toBe(true);
  expect(await restoreRule(database.pool, id)).toBe(false);
  expect([await run(), await listRemoved(database.pool)]).toEqual([['A 1'], []]);
  expect(await readRule(database.pool, id)).toMatchObject({
    folder: 'Ports',
    changedBy: 'Mara',
    published: { version: 1, note: 'The port asked for it.' },
  });
});

test('the history of a rule has each publication with its note, and why it was stopped', async () => {
  const id = await make('A');
  await publishRule(database.pool, id, 1, { by: 'Mara', note: 'First.' });
  expect(await saveDraft(database.pool, id, 1, body('B'), 'Ines')).toBe(true);
  await publishRule(database.pool, id, 2, { by: 'Ines', note: '' });
  expect(await withdrawRule(database.pool, id, { by: 'Oda', why: 'The port is closed.' })).toBe(2);
  // Twice is once.
  expect(await withdrawRule(database.pool, id, { by: 'Oda', why: 'Again.' })).toBeUndefined();
  const { versions, stops } = await readHistory(database.pool, id);
  expect(versions.map(({ version, by, note, body: { name } }) => [version, by, note, name])).toEqual([
    [2, 'Ines', '', 'B'],
    [1, 'Mara', 'First.', 'A'],
  ]);
  expect(stops).toEqual([
    { version: 2, by: 'Oda', at: expect.any(Date) as Date, why: 'The port is closed.' },
  ]);
});

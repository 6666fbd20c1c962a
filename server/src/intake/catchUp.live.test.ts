import type { JsonObject } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { openHarbour } from '../fixtures/harbour';
import { digestOf } from '../images/digest';
import { digestsOf } from '../images/images';
import { compareAll } from './catchUp';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE images, inbox CASCADE'));

const looking = {
  system: 'book',
  recordType: 'company',
  why: 'comparing',
  now: new Date('2026-03-09T10:00:00Z'),
} as const;
const companies: readonly JsonObject[] = ['C1', 'C2', 'C3'].map((id) => ({
  id,
  phone: '1',
  town: 'Holm',
  rev: 1,
}));

/** Companies whose records were learnt. */
async function learnt() {
  const harbour = openHarbour(database.pool, { companies });
  await compareAll(database.pool, harbour.registry, looking, true);
  let wholeImages = 0;
  const { pool } = database;
  const counting = new Proxy(pool, {
    get(target, name) {
      if (name !== 'query') return Reflect.get(target, name, target) as unknown;
      return (asked: unknown, ...rest: unknown[]) => {
        if (typeof asked === 'string' && asked.includes('echoes')) wholeImages++;
        return (target.query as (...all: unknown[]) => unknown).call(target, asked, ...rest);
      };
    },
  });
  return {
    ...harbour,
    /** Compares; gives how many events were taken, and whether images were read whole. */
    compare: async () => {
      wholeImages = 0;
      const { taken } = await compareAll(counting, harbour.registry, looking, false);
      return [taken, wholeImages > 0];
    },
  };
}
const digests = async () => {
  const all: (readonly [string, number | null])[] = [];
  for await (const some of digestsOf(database.pool, looking)) all.push(...some);
  return Object.fromEntries(all);
};

test('what is as it was is known without reading what is known of it', async () => {
  const { compare } = await learnt();
  expect(await compare()).toEqual([0, false]);
});

test('a record that changed, one that is new, and one that is gone are taken, each once', async () => {
  const { compare, book } = await learnt();
  book.save('company', 'C1', { phone: '2' });
  book.save('company', 'C9', { phone: '9' });
  book.drop('company', 'C2');
  expect(await compare()).toEqual([3, true]);
  const { rows } = await database.pool.query('SELECT record_id, kind FROM inbox ORDER BY record_id');
  expect(rows).toEqual([
    { record_id: 'C1', kind: 'updated' },
    { record_id: 'C2', kind: 'deleted' },
    { record_id: 'C9', kind: 'created' },
  ]);
});

test('images of an earlier version, of which nothing stands for the record, are looked at whole once', async () => {
  const { compare } = await learnt();
  await database.pool.query('UPDATE images SET digest = NULL');
  expect(await compare()).toEqual([0, true]);
  expect(await digests()).toEqual(Object.fromEntries(companies.map((each) => [each['id'], digestOf(each)])));
  expect(await compare()).toEqual([0, false]);
});

test('a record that is written in another form than its image is no news, and is known from then on', async () => {
  const { compare } = await learnt();
  const [first = {}] = companies;
  const { rev, ...others } = first;
  await database.pool.query(`UPDATE images SET record = $1, digest = 17 WHERE record_id = 'C1'`, [
    JSON.stringify({ ...others, phone: '1', rev: String(rev), nothing: null }),
  ]);
  expect(await compare()).toEqual([0, true]);
  expect(await compare()).toEqual([0, false]);
});

test('what was read is older than the image: it is no news, and does not stand for the image', async () => {
  const { compare } = await learnt();
  await database.pool.query(
    `UPDATE images SET record = record || '{"phone": "7", "rev": 5}', digest = 18 WHERE record_id = 'C1'`,
  );
  expect(await compare()).toEqual([0, true]);
  expect((await digests())['C1']).toBe(18);
});

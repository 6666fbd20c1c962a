import type { JsonObject } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { forgetImages, keepImages, keepFirstSeen, markRemoved } from './images';
import { keepWords, sightings } from './words';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE images, image_words, images_unread'));

const ref = (id: string) => ({ system: 'book', recordType: 'company', id });
const see = (id: string, record: JsonObject) => keepFirstSeen(database.pool, [{ ref: ref(id), record }]);
const image = (id: string, record: JsonObject, gone = false) => ({
  ref: ref(id),
  record,
  echoes: [],
  gone,
});
const keepAll = async () => {
  while (await keepWords(database.pool));
};
const found = async (text: string) => (await sightings(database.pool, text, 10)).map(({ id }) => id).sort();

test('a value is found wherever it stands in a record, as a part of it, in any case, and by the id', async () => {
  await see('C1', {
    name: 'North Skerry',
    address: { town: 'Nörthport' },
    lines: [{ goods: 'Kelp 100%_dry' }],
  });
  await see('C2', { name: 'Other', number: 120034 });
  await keepAll();
  expect(await found('skerry')).toEqual(['C1']);
  expect(await found('nörTH')).toEqual(['C1']);
  // Written with a combining mark (Unicode 15, annex 15: both are the same in NFC).
  expect(await found('no\u0308rthport')).toEqual(['C1']);
  expect(await found('elp 100%_')).toEqual(['C1']);
  expect(await found('100_')).toEqual([]);
  expect(await found('2003')).toEqual(['C2']);
  expect(await found('c2')).toEqual([]);
  expect(await found('company')).toEqual([]);
});

test('a telephone number is found however it is written', async () => {
  await see('C1', { phone: '01632 960 120' });
  await see('C2', { phone: '+44 1632 960121' });
  await keepAll();
  expect(await found('+44 1632 960 120')).toEqual(['C1']);
  expect(await found('(01632) 960-121')).toEqual(['C2']);
  expect(await found('01632 960')).toEqual(['C1', 'C2']);
});

test('what changed is found by what it is now, and what is gone, removed or forgotten is found no more', async () => {
  await see('C1', { name: 'Before' });
  await see('C2', { name: 'Gone soon' });
  await see('C3', { name: 'Removed soon' });
  await keepAll();
  await keepImages(database.pool, [
    image('C1', { name: 'Afterwards' }),
    image('C2', { name: 'Gone soon' }, true),
  ]);
  await markRemoved(database.pool, [ref('C3')]);
  await keepAll();
  expect([await found('before'), await found('afterwards'), await found('soon')]).toEqual([[], ['C1'], []]);
  await forgetImages(database.pool, 'book');
  await keepAll();
  expect(await found('afterwards')).toEqual([]);
  const { rows } = await database.pool.query('SELECT FROM image_words');
  expect(rows).toHaveLength(0);
});

test('many images at a time are kept by one of those who try, and none is left out', async () => {
  const many = Array.from({ length: 4500 }, (_none, at) => ({
    ref: ref(`C${at}`),
    record: { name: `Company number ${at} of many` },
  }));
  await keepFirstSeen(database.pool, many);
  await Promise.all([keepAll(), keepAll(), keepAll()]);
  await keepAll();
  const { rows } = await database.pool.query('SELECT FROM image_words');
  expect(rows).toHaveLength(4500);
  expect(await found('number 4321 of')).toEqual(['C4321']);
});

test('a change that changes no value notes nothing', async () => {
  await see('C1', { name: 'Same' });
  await keepAll();
  await keepImages(database.pool, [image('C1', { name: 'Same' })]);
  const { rows } = await database.pool.query('SELECT FROM images_unread');
  expect(rows).toHaveLength(0);
});

test('among very many records a value is looked up in the index', async () => {
  await database.pool.query(
    `INSERT INTO image_words SELECT 'book', 'company', i::text, 'company ' || md5(i::text) FROM generate_series(1, 20000) AS i`,
  );
  await database.pool.query('ANALYZE image_words');
  const { rows } = await database.pool.query<{ 'QUERY PLAN': string }>(
    `EXPLAIN SELECT record_id FROM image_words WHERE words LIKE ANY (ARRAY['%a87ff679a2f3%']) LIMIT 100`,
  );
  expect(rows.map((row) => row['QUERY PLAN']).join('\n')).toContain('image_words_parts');
});

import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent, companyRef, openHarbour } from '../fixtures/harbour';
import { rememberWrites } from '../images/derive';
import { keepImages, readImages } from '../images/images';
import { accept } from '../inbox/inbox';
import { nextOf } from '../runs/next';
import { readRun } from '../runs/list';
import { takeAll } from './takeAll';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

const seen = (id: string, phone = '1') =>
  keepImages(database.pool, [{ ref: companyRef(id), record: { id, phone, rev: 1 }, echoes: [] }]);
const ours = (id: string, phone: string) =>
  rememberWrites(database.pool, [
    {
      change: { kind: 'edit', ref: companyRef(id), edits: [{ path: 'phone', before: '1', after: phone }] },
      before: { id, phone: '1' },
      version: undefined,
    },
  ]);
const take = async (...events: Parameters<typeof takeAll>[2]) =>
  (await takeAll(database.pool, openHarbour(database.pool).registry, events)).map(({ id }) => id);
const resultOf = async (id: string | undefined) => {
  const run = await readRun(database.pool, id ?? '0');
  return run && [run.state, run.result, run.changed];
};

test('events of our own writes are done with as they come, the others wait for a worker with what they changed', async () => {
  await seen('T1');
  await seen('T2');
  await ours('T1', '2');
  const [own, other] = await take(
    companyEvent({ id: 'T1', phone: '2', rev: 2 }),
    companyEvent({ id: 'T2', phone: '3', rev: 2 }),
  );
  expect(await resultOf(own)).toEqual(['done', 'own write', []]);
  expect(await resultOf(other)).toEqual(['waiting', null, ['phone']]);
  const waiting = await nextOf(database.pool, [companyRef('T1'), companyRef('T2')]);
  expect([...waiting.keys()]).toEqual(['book/company/T2']);
});

test('what comes after an event that has to be handled waits for it, also when it would be our own', async () => {
  await seen('T3');
  await take(companyEvent({ id: 'T3', phone: '5', rev: 2 }));
  await ours('T3', '6');
  const [later] = await take(companyEvent({ id: 'T3', phone: '6', rev: 2 }));
  expect((await resultOf(later))?.slice(0, 2)).toEqual(['waiting', null]);
});

test('the same event in one batch and in the next is taken once', async () => {
  const event = companyEvent({ id: 'T4', phone: '1', rev: 2 });
  const [first, second] = await take(event, event);
  expect([first === undefined, second === undefined].sort()).toEqual([false, false]);
  expect(first).toBe(second);
  expect(await take(event)).toEqual([undefined]);
});

test('two changes of a record in one batch are derived one after the other', async () => {
  await seen('T5', '1');
  await ours('T5', '1');
  const [first] = await take(
    companyEvent({ id: 'T5', phone: '1', note: '', rev: 2 }),
    companyEvent({ id: 'T5', phone: '9', rev: 3 }),
  );
  expect((await resultOf(first))?.slice(0, 2)).toEqual(['done', 'own write']);
  const image = (await readImages(database.pool, [companyRef('T5')])).get('book/company/T5');
  expect(image?.record['phone']).toBe('9');
});

test('an event older than what is known is done with as it comes, and its event is kept', async () => {
  await seen('T7');
  await take(companyEvent({ id: 'T7', phone: '3', rev: 3 }));
  await database.pool.query(`UPDATE inbox SET state = 'done' WHERE record_id = 'T7'`);
  const [late] = await take(companyEvent({ id: 'T7', phone: '2', rev: 2 }));
  expect(await readRun(database.pool, late ?? '0')).toMatchObject({
    state: 'done',
    result: 'late',
    because:
      'Came late: it tells of version 2, and version 3 was dealt with before. Nothing is changed by it.',
    event: { record: { phone: '2' } },
  });
  expect((await readImages(database.pool, [companyRef('T7')])).get('book/company/T7')?.record['phone']).toBe(
    '3',
  );
});

test('an event for one rule alone is not taken for a change of the record', async () => {
  await seen('T6');
  await ours('T6', '2');
  const rule = '00000000-0000-7000-8000-000000000001';
  const [id] = await take(companyEvent({ id: 'T6', phone: '2', rev: 2 }, { rule }));
  expect((await resultOf(id))?.slice(0, 2)).toEqual(['waiting', null]);
});

test('a record type that nobody knows waits for the worker, which tells of it', async () => {
  const event = companyEvent({ id: 'X' }, { ref: { system: 'book', recordType: 'ghost', id: 'X' } });
  const [id] = await take(event);
  expect((await resultOf(id))?.slice(0, 2)).toEqual(['waiting', null]);
  expect(await accept(database.pool, event)).toBeUndefined();
});

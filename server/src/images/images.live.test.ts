import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { bookingRef, bookSystem, companyEvent, companyRef } from '../fixtures/harbour';
import { deriveAgainst, deriveAndKeep, rememberWrites } from './derive';
import { keepFirstSeen, keepImages, markRemoved, readImages } from './images';

const company = bookSystem.recordTypes[0] ?? noCompany();
function noCompany(): never {
  throw new Error('the harbour has a company');
}
const versionOf = ({ rev }: Readonly<Record<string, unknown>>) =>
  rev === undefined ? undefined : Number(rev);

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE images'));

async function derive(record: Parameters<typeof companyEvent>[0], more = {}) {
  const received = companyEvent(record, more);
  const derived = await deriveAndKeep(database.pool, { recordType: company, versionOf, received });
  if (derived.is !== 'news') throw new Error(`it is ${derived.is}`);
  return derived;
}
const imageOf = async (id: string) =>
  (await readImages(database.pool, [companyRef(id)])).get(`book/company/${id}`);

test('what an event changed is what differs from the last image, whatever the sender claims', async () => {
  await derive({ id: 'C1', phone: '1', town: 'Murrow', rev: 1 });
  const { event } = await derive({ id: 'C1', phone: '2', town: 'Murrow', rev: 2 }, { claimed: ['town'] });
  expect([event.changed, event.before]).toEqual([
    ['phone'],
    { id: 'C1', phone: '1', town: 'Murrow', rev: 1 },
  ]);
});

test('without an image the sender’s own before is the next best, and without that its list', async () => {
  const before = { id: 'C2', phone: '1' };
  expect((await derive({ id: 'C2', phone: '2' }, { before, claimed: ['town'] })).event.changed).toEqual([
    'phone',
  ]);
  expect((await derive({ id: 'C3', phone: '2' }, { claimed: ['town'] })).event.changed).toEqual(['town']);
});

test('an image that was learnt is not learnt again', async () => {
  const { pool } = database;
  const seen = (phone: string) => [{ ref: companyRef('C4'), record: { id: 'C4', phone } }];
  expect(await keepFirstSeen(pool, seen('1'))).toBe(1);
  expect(await keepFirstSeen(pool, seen('2'))).toBe(0);
  expect((await imageOf('C4'))?.record).toEqual({ id: 'C4', phone: '1' });
});

test('our own write that comes back is known, and somebody else’s change in the same record is not lost', async () => {
  const { pool } = database;
  await derive({ id: 'C5', phone: '1', note: '', rev: 1 });
  const change = {
    kind: 'edit' as const,
    ref: companyRef('C5'),
    edits: [{ path: 'phone', before: '1', after: '2' }],
  };
  await rememberWrites(pool, [{ change, before: { id: 'C5', phone: '1' }, version: '2' }]);
  expect((await derive({ id: 'C5', phone: '2', note: '', rev: 2 })).own).toBe(true);
  const { event, own } = await derive({ id: 'C5', phone: '2', note: 'urgent', rev: 3 });
  expect([event.changed, own]).toEqual([['note'], false]);
});

test('an event from before our own write does not bring the old value back', async () => {
  const { pool } = database;
  await derive({ id: 'C6', phone: '1', note: '', rev: 1 });
  const change = {
    kind: 'edit' as const,
    ref: companyRef('C6'),
    edits: [{ path: 'phone', before: '1', after: '2' }],
  };
  await rememberWrites(pool, [{ change, before: { id: 'C6', phone: '1' }, version: '3' }]);
  const { event } = await derive({ id: 'C6', phone: '1', note: 'late', rev: 2 });
  expect(event.changed).toEqual(['note']);
  expect((await imageOf('C6'))?.record).toMatchObject({ phone: '2', note: 'late' });
});

test('an event is derived as if a write that is on its way had arrived', () => {
  const image = { record: { id: 'C7', phone: '1' }, echoes: [], toldAt: '2026-03-09T09:00:00Z' };
  const flying = { edits: [{ path: 'phone', before: '1', after: '2' }], before: image.record };
  const received = companyEvent({ id: 'C7', phone: '2' });
  expect(deriveAgainst({ recordType: company, versionOf, received, image })).toMatchObject({ own: false });
  expect(deriveAgainst({ recordType: company, versionOf, received, image, flying })).toMatchObject({
    own: true,
  });
});

test('a removal of ours is known when its event comes, once', async () => {
  const { pool } = database;
  await keepImages(pool, [{ ref: companyRef('C8'), record: { id: 'C8', phone: '1' }, echoes: [] }]);
  await rememberWrites(pool, [
    {
      change: { kind: 'remove', ref: companyRef('C8'), record: { id: 'C8' } },
      before: {},
      version: undefined,
    },
  ]);
  expect(await imageOf('C8')).toMatchObject({ gone: true, removedByUs: true });
  expect((await derive({ id: 'C8' }, { kind: 'deleted' })).own).toBe(true);
  expect((await derive({ id: 'C8' }, { kind: 'deleted' })).own).toBe(false);
});

test('a record that was removed and comes back has an image again', async () => {
  const { pool } = database;
  await keepImages(pool, [{ ref: companyRef('C9'), record: { id: 'C9', rev: 4 }, echoes: [] }]);
  await markRemoved(pool, [companyRef('C9')]);
  await derive({ id: 'C9', phone: '5', rev: 5 }, { kind: 'created' });
  expect(await imageOf('C9')).toMatchObject({ record: { id: 'C9', phone: '5', rev: 5 } });
  expect((await imageOf('C9'))?.gone).toBeUndefined();
});

test('images of many records are read in one go, each under its own key', async () => {
  const { pool } = database;
  const all = [companyRef('CA'), bookingRef('CA'), companyRef('CB')];
  await keepImages(
    pool,
    all.map((ref) => ({ ref, record: { id: ref.id, of: ref.system }, echoes: [] })),
  );
  const read = await readImages(pool, [...all, companyRef('nobody')]);
  expect([...read.keys()].sort()).toEqual(['book/company/CA', 'book/company/CB', 'desk/booking/CA']);
  expect(read.get('desk/booking/CA')?.record['of']).toBe('desk');
});

import type { ChangeEvent, JsonObject } from '@vast-knot/core';
import { jobsOf, openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent, companyRef, openHarbour, phoneToBookings } from '../fixtures/harbour';
import { nextOf } from '../runs/next';
import { keepWaiting, listWaits, releaseWait } from './waits';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

const ruleId = phoneToBookings.id;
const event = (
  id: string,
  before: JsonObject,
  record: JsonObject,
  more: Partial<ChangeEvent> = {},
): ChangeEvent => {
  const { claimed: _claimed, ...told } = companyEvent({ id, ...record });
  return { ...told, before: { id, ...before }, changed: Object.keys(record), ...more };
};
const waits = (seconds: number, ...events: readonly ChangeEvent[]) =>
  keepWaiting(
    database.pool,
    events.map((each) => ({ ruleId, seconds, event: each })),
    new Map(),
  );
const release = (id: string) =>
  releaseWait(database.pool, openHarbour(database.pool).registry, { rule: ruleId, ref: companyRef(id) });

const oldest = async (id: string) =>
  (await nextOf(database.pool, [companyRef(id)])).get(`book/company/${id}`)?.waiting;

test('changes of one record are folded into one, from before the first to after the last', async () => {
  await waits(0, event('W1', { phone: '1' }, { phone: '2' }));
  await waits(0, event('W1', { phone: '2' }, { phone: '3', town: 'Murrow' }));
  await release('W1');
  const waiting = await oldest('W1');
  expect(waiting?.event).toMatchObject({
    before: { id: 'W1', phone: '1' },
    record: { id: 'W1', phone: '3', town: 'Murrow' },
    claimed: ['phone', 'town'],
    folded: 2,
    rule: ruleId,
    source: '/vast-knot/waits',
  });
});

test('changes that undo each other lead to nothing', async () => {
  await waits(0, event('W2', { phone: '1' }, { phone: '2' }), event('W2', { phone: '2' }, { phone: '1' }));
  await release('W2');
  expect(await oldest('W2')).toBeUndefined();
});

test('what is released twice is taken once, and what is not due is not released', async () => {
  await waits(0, event('W3', { phone: '1' }, { phone: '2' }));
  await Promise.all([release('W3'), release('W3')]);
  const { rows } = await database.pool.query(`SELECT id FROM inbox WHERE record_id = 'W3'`);
  expect(rows).toHaveLength(1);
  await waits(3600, event('W4', { phone: '1' }, { phone: '2' }));
  await release('W4');
  expect(await oldest('W4')).toBeUndefined();
  expect((await listWaits(database.pool)).map(({ ref, folded }) => [ref.id, folded])).toEqual([['W4', 1]]);
});

test('a later change does not move the time that the first one set', async () => {
  await waits(600, event('W5', { phone: '1' }, { phone: '2' }));
  const [before] = (await listWaits(database.pool)).filter(({ ref }) => ref.id === 'W5');
  await waits(9000, event('W5', { phone: '2' }, { phone: '3' }));
  const [after] = (await listWaits(database.pool)).filter(({ ref }) => ref.id === 'W5');
  expect(after?.due).toEqual(before?.due);
  const jobs = (await jobsOf(database.pool, 'release_wait')) as { ref: { id: string } }[];
  expect(jobs.filter(({ ref }) => ref.id === 'W5')).toHaveLength(1);
});

test('what is waited with carries the ids that systems gave to what the run created', async () => {
  const made = event('new-1-e', {}, { phone: '2', note: 'new-2-e' }, { ref: companyRef('new-1-e') });
  await keepWaiting(
    database.pool,
    [{ ruleId, seconds: 0, event: made }],
    new Map([
      ['new-1-e', 'W6'],
      ['new-2-e', 'T-9'],
    ]),
  );
  await release('W6');
  expect((await oldest('W6'))?.event.record).toMatchObject({
    id: 'W6',
    note: 'T-9',
  });
});

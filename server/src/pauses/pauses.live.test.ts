import { pino } from 'pino';
import type { JsonObject } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent, companyRef, openHarbour, phoneToBookings, type Harbour } from '../fixtures/harbour';
import { keepFirstSeen } from '../images/images';
import { takeAll } from '../intake/takeAll';
import { insertRule, pausedRules, pauseRule } from '../rules/repository';
import { readRun } from '../runs/list';
import { retryRuns } from '../runs/repository';
import { holdChanges, letRuleGoOn, listHeld } from '../waits/held';
import { unwatched } from '../worker/computing';
import { handleLane } from '../worker/handleLane';
import { Sets } from '../worker/sets';
import { RightOfWay } from '../worker/rightOfWay';
import { Turns } from '../worker/turns';
import { goOnWith } from './goOn';

const { id: ruleId } = phoneToBookings;
let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
  const { id: _id, version: _version, ...body } = phoneToBookings;
  await insertRule(database.pool, { id: ruleId, position: 1, body, published: true });
});
afterAll(() => database.close());
beforeEach(async () => {
  await database.pool.query('TRUNCATE inbox, runs, images, flights, held_changes CASCADE');
  await pauseRule(database.pool, ruleId, null);
});

/** A company with a booking, whose phone is changed as often as there are phones, each told of by an event. */
async function changed(phones: readonly string[]) {
  const company: JsonObject = { id: 'C1', name: 'Skerry', phone: '1', town: 'Murrow', rev: 1 };
  const bookings = [{ id: 'B1', name: 'B1', company: 'C1', phone: '1', note: '' }];
  const harbour = openHarbour(database.pool, { companies: [company], bookings });
  await keepFirstSeen(database.pool, [{ ref: companyRef('C1'), record: company }]);
  const tell = async (phone: string) => {
    harbour.book.save('company', 'C1', { phone });
    await takeAll(database.pool, harbour.registry, [
      companyEvent(harbour.book.record('company', 'C1') ?? {}),
    ]);
  };
  for (const phone of phones) await tell(phone);
  return { ...harbour, tell };
}

/** Handles all that is due, as a process does that knows what is paused by now. */
async function handleAll({ registry }: Harbour) {
  const { pool } = database;
  const known = { ...registry, paused: await pausedRules(pool) };
  const parts = {
    sets: new Sets(pool, 40),
    turns: new Turns(),
    rightOfWay: new RightOfWay(),
    computing: unwatched,
  };
  await Promise.all(
    [0, 1, 2, 3].map((lane) =>
      handleLane(
        { system: 'book', lane },
        {
          ...parts,
          pool,
          registry: { get: () => Promise.resolve(known), recent: () => Promise.resolve(known) },
          stopping: () => false,
          log: pino({ level: 'silent' }),
          listen: () => () => undefined,
        },
      ),
    ),
  );
}

const phonesWritten = ({ desk }: Harbour) =>
  desk.taken.map(({ change }) => (change.kind === 'edit' ? change.edits[0]?.after : undefined));

const runs = async () => {
  const { rows } = await database.pool.query<{ id: string; result: string; because: string }>(
    'SELECT id, result, because FROM inbox ORDER BY id',
  );
  return rows;
};

test('what would start a paused rule is held, counted, and written in its order once the rule goes on', async () => {
  await pauseRule(database.pool, ruleId, 'mara');
  const harbour = await changed(['2', '3']);
  await handleAll(harbour);
  await harbour.tell('4');
  await handleAll(harbour);
  expect(phonesWritten(harbour)).toEqual([]);
  expect((await runs()).map(({ because }) => because)).toEqual(
    Array(3).fill('The rule is paused: the change waits until it goes on.'),
  );
  expect(await listHeld(database.pool)).toMatchObject([{ id: ruleId, by: 'mara', held: 3 }]);

  expect(await letRuleGoOn(database.pool, ruleId, null)).toBe(3);
  await harbour.tell('5');
  await handleAll(harbour);
  expect(phonesWritten(harbour)).toEqual(['2', '3', '4', '5']);
  expect(harbour.desk.record('booking', 'B1')).toMatchObject({ phone: '5' });
  expect(await listHeld(database.pool)).toEqual([]);
});

test('what was held is dropped by whom it says, and each can be taken up', async () => {
  await pauseRule(database.pool, ruleId, 'mara');
  const harbour = await changed(['2']);
  await handleAll(harbour);
  expect(await letRuleGoOn(database.pool, ruleId, 'ines')).toBe(1);
  await handleAll(harbour);
  expect(phonesWritten(harbour)).toEqual([]);
  const dropped = (await runs()).at(-1);
  expect(dropped).toMatchObject({
    result: 'dropped',
    because: 'Dropped by ines: the rule was paused when it came.',
  });
  expect([...(await retryRuns(database.pool, [dropped?.id ?? ''])).keys()]).toEqual([dropped?.id]);
  await handleAll(harbour);
  expect(phonesWritten(harbour)).toEqual(['2']);
});

test('a change that another process holds for a rule which went on meanwhile comes at once', async () => {
  const harbour = await changed([]);
  const { claimed: _claimed, ...told } = companyEvent({ id: 'C1', name: 'Skerry', phone: '7' });
  await holdChanges(database.pool, [{ ruleId, event: { ...told, changed: ['phone'] } }]);
  expect(await listHeld(database.pool)).toEqual([]);
  await handleAll(harbour);
  expect(phonesWritten(harbour)).toEqual(['7']);
});

test('a change whose run is tried again is held once, and taken once', async () => {
  await pauseRule(database.pool, ruleId, 'mara');
  const harbour = await changed([]);
  const { claimed: _claimed, ...told } = companyEvent({ id: 'C1', name: 'Skerry', phone: '7' });
  const held = [{ ruleId, event: { ...told, changed: ['phone'] } }];
  await holdChanges(database.pool, held);
  await holdChanges(database.pool, held);
  expect(await letRuleGoOn(database.pool, ruleId, null)).toBe(1);
  // Tried again once more, after the rule goes on.
  await holdChanges(database.pool, held);
  await handleAll(harbour);
  expect(phonesWritten(harbour)).toEqual(['7']);
});

describe('a system that is paused', () => {
  const paused = () => ({
    code: 'unavailable' as const,
    message: 'Desk is paused.',
    retry: true,
    waits: { system: 'desk', until: Date.now() + 3_600_000, sent: false },
  });

  test('goes on with what waited, in its order', async () => {
    const harbour = await changed(['2', '3']);
    harbour.desk.failure = paused;
    await handleAll(harbour);
    harbour.desk.failure = undefined;
    expect(await goOnWith(database.pool, ['desk'], null)).toBe(1);
    await handleAll(harbour);
    // The first waited, and was computed anew with the record as it is by then.
    expect(harbour.desk.record('booking', 'B1')).toMatchObject({ phone: '3' });
  });

  test('goes on without what waited where that is dropped, and what comes later is written', async () => {
    const harbour = await changed(['2']);
    harbour.desk.failure = paused;
    await handleAll(harbour);
    harbour.desk.failure = undefined;
    expect(await goOnWith(database.pool, ['desk'], 'ines')).toBe(1);
    await handleAll(harbour);
    expect(phonesWritten(harbour)).toEqual([]);
    const [dropped] = await runs();
    expect(dropped).toMatchObject({
      result: 'dropped',
      because: 'Dropped by ines: it waited for what was paused.',
    });
    expect(await readRun(database.pool, dropped?.id ?? '')).toMatchObject({
      result: 'dropped',
      state: 'done',
    });
    await harbour.tell('3');
    await handleAll(harbour);
    expect(phonesWritten(harbour)).toEqual(['3']);
  });
});

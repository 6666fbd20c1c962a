import { jobsOf, openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent } from '../fixtures/harbour';
import { accept, notingTried, type Tried } from '../inbox/inbox';
import { failureGroups, putAside, retryCause, takeUpAgain } from './failures';
import { beginRuns, notingRuns } from './repository';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());
beforeEach(() => database.pool.query('TRUNCATE inbox, runs, put_aside CASCADE'));

/** A run of a company that came to something, with the reason. */
async function ended(id: string, because: string, result: Tried['result'] = 'failed') {
  const { pool } = database;
  const event = companyEvent({ id, name: `Company ${id}` });
  const run = (await accept(pool, { ...event, id: `${id}/${because}` })) ?? '';
  await beginRuns(pool, [{ id: run, event: { ...event, changed: ['phone'] }, ended: undefined }]);
  const state = result === 'failed' ? 'failed' : 'done';
  await pool.query(notingTried([{ id: run, state, because, result, waitMs: 0 }]));
  await pool.query(notingRuns([{ id: run, done: true, result, because, anew: false }]));
  return run;
}

const groups = async () => (await failureGroups(database.pool, (id) => id)).groups;

test('runs that failed for like causes stand together, with how many records they are of and when', async () => {
  await ended('C1', '1 line failed: “x1” is no phone number.');
  await ended('C1', '1 line failed: “x2” is no phone number.');
  const last = await ended('C2', '1 line failed: “x3” is no phone number.');
  await ended('C3', 'Booking BK1 was refused.', 'partly failed');
  await ended('C4', '2 records written.', 'wrote');
  expect(await groups()).toMatchObject([
    {
      cause: '… failed: “…” is no phone number.',
      because: '1 line failed: “x3” is no phone number.',
      runs: 3,
      records: 2,
      retriable: 3,
      aside: null,
    },
    { because: 'Booking BK1 was refused.', runs: 1, records: 1, retriable: 1 },
  ]);
  const [first] = await groups();
  expect(first?.examples.map(({ run }) => run)[0]).toBe(last);
  expect(first?.examples[0]?.ref).toEqual({ system: 'book', recordType: 'company', id: 'C2' });
  expect(Date.parse(first?.firstAt ?? '')).toBeLessThanOrEqual(Date.parse(first?.lastAt ?? ''));
});

test('all of one cause are tried again, and those of others are not', async () => {
  await ended('C1', '1 line failed: “x1” is no phone number.');
  await ended('C2', '1 line failed: “x2” is no phone number.');
  const other = await ended('C3', 'The guard failed.');
  const [first] = await groups();
  await database.pool.query('DELETE FROM graphile_worker._private_jobs');
  expect(await retryCause(database.pool, first?.cause ?? '')).toBe(2);
  expect((await jobsOf(database.pool, 'handle_lane')).length).toBeGreaterThan(0);
  expect((await groups()).flatMap(({ examples }) => examples.map(({ run }) => run))).toEqual([other]);
  expect(await retryCause(database.pool, first?.cause ?? '')).toBe(0);
});

test('a cause is put aside with a note and taken up again; new runs of it are known for it', async () => {
  await ended('C1', 'Row 7 has no code.');
  await putAside(database.pool, 'Row … has no code.', 'Old rows; nobody needs them.', 'Mara');
  await ended('C2', 'Row 9 has no code.');
  expect(await groups()).toMatchObject([
    { runs: 2, aside: { note: 'Old rows; nobody needs them.', by: 'Mara' } },
  ]);
  await putAside(database.pool, 'Row … has no code.', 'Still so.', 'Runa');
  expect((await groups())[0]?.aside).toMatchObject({ note: 'Still so.', by: 'Runa' });
  expect(await takeUpAgain(database.pool, 'Row … has no code.')).toBe(true);
  expect(await takeUpAgain(database.pool, 'Row … has no code.')).toBe(false);
  expect((await groups())[0]?.aside).toBeNull();
});

import { v7 as uuid } from 'uuid';
import type { Json, JobState } from '@vast-knot/core';
import { jobsOf, openTestDatabase, type TestDatabase } from '../fixtures/database';
import { openHarbour } from '../fixtures/harbour';
import { askToCancel, askToPause, beginJob, goOn, isAtWork, listJobs, readJob } from './repository';
import { runJob, type JobKind, type JobRunner } from './runJob';

let database: TestDatabase;
beforeAll(async () => {
  database = await openTestDatabase();
});
afterAll(() => database.close());

/** Counts up to what was asked for; `before` is called ahead of each step with what is counted so far. */
function counting(before: (count: number) => Promise<void> | void = () => undefined): JobKind {
  return {
    kind: 'counting',
    open: (asked, memory) => {
      let count = Number(memory ?? 0);
      return Promise.resolve({
        async step() {
          await before(count);
          count++;
          return { memory: count, done: count, total: Number(asked), ended: count >= Number(asked) };
        },
      });
    },
  };
}

async function begin(to: Json): Promise<string> {
  const id = uuid();
  await beginJob(database.pool, { id, kind: 'counting', asked: to, by: 'Mara' });
  return id;
}

const work = (
  id: string,
  kind: JobKind,
  owner = 'one',
  { stopping = () => false, lastTry = true }: Partial<Pick<JobRunner, 'stopping' | 'lastTry'>> = {},
) => {
  const { registry } = openHarbour(database.pool);
  const source = { get: () => Promise.resolve(registry), recent: () => Promise.resolve(registry) };
  return runJob(id, { pool: database.pool, registry: source, owner, kinds: [kind], stopping, lastTry });
};
const stateOf = async (id: string): Promise<readonly [JobState | undefined, number | undefined]> => {
  const job = await readJob(database.pool, id);
  return [job?.state, job?.done];
};

test('a job waits in the queue, is done step by step, and tells how far it came and who asked', async () => {
  const id = await begin(3);
  expect(await jobsOf(database.pool, 'run_job')).toContainEqual({ id });
  expect(await isAtWork(database.pool, 'counting')).toBe(true);
  await work(id, counting());
  expect(await readJob(database.pool, id)).toMatchObject({
    state: 'done',
    done: 3,
    total: 3,
    askedBy: 'Mara',
    problem: null,
    finishedAt: expect.any(Date) as Date,
  });
  expect(await isAtWork(database.pool, 'counting')).toBe(false);
});

test('a job is paused at its next step, and goes on from there', async () => {
  const id = await begin(5);
  await work(
    id,
    counting(async (count) => {
      if (count === 1) expect(await askToPause(database.pool, id)).toBe(true);
    }),
  );
  expect(await stateOf(id)).toEqual(['paused', 2]);
  await work(id, counting());
  expect(await stateOf(id)).toEqual(['paused', 2]);
  expect(await goOn(database.pool, id)).toBe(true);
  const from: number[] = [];
  await work(
    id,
    counting((count) => void from.push(count)),
  );
  expect(from).toEqual([2, 3, 4]);
  expect(await stateOf(id)).toEqual(['done', 5]);
});

test('a job is cancelled while it waits, at work and paused, and not once it has ended', async () => {
  const waiting = await begin(5);
  expect(await askToCancel(database.pool, waiting)).toBe(true);
  await work(waiting, counting());
  expect(await stateOf(waiting)).toEqual(['cancelled', 0]);

  const atWork = await begin(5);
  await work(
    atWork,
    counting(async (count) => void (count === 2 && (await askToCancel(database.pool, atWork)))),
  );
  expect(await stateOf(atWork)).toEqual(['cancelled', 3]);
  expect(await askToCancel(database.pool, atWork)).toBe(false);
  expect(await goOn(database.pool, atWork)).toBe(false);

  const paused = await begin(5);
  expect(await askToPause(database.pool, paused)).toBe(true);
  expect(await askToCancel(database.pool, paused)).toBe(true);
  expect(await stateOf(paused)).toEqual(['cancelled', 0]);
});

test('a job whose process is gone is taken up by another one, from what it had kept', async () => {
  const id = await begin(4);
  let killed: () => void = () => undefined;
  const dead = new Promise<void>((done) => (killed = done));
  // The first process hangs in its third step, as one that was killed does.
  const first = work(
    id,
    counting((count) => (count === 2 ? dead : undefined)),
    'first',
  );
  while ((await stateOf(id))[1] !== 2) await new Promise((done) => setTimeout(done, 5));
  const from: number[] = [];
  await work(
    id,
    counting((count) => void from.push(count)),
    'second',
  );
  expect(from).toEqual([2, 3]);
  expect(await stateOf(id)).toEqual(['done', 4]);
  // What was thought dead and was not changes nothing any more.
  killed();
  await first;
  expect(await stateOf(id)).toEqual(['done', 4]);
});

test('a process that is to stop lays its job down for another one', async () => {
  const id = await begin(4);
  let steps = 0;
  await work(
    id,
    counting(() => void steps++),
    'one',
    { stopping: () => steps >= 2 },
  );
  expect(await stateOf(id)).toEqual(['waiting', 2]);
  await work(id, counting(), 'two');
  expect(await stateOf(id)).toEqual(['done', 4]);
});

test('a job that fails says why, and one of a kind that nobody does says so', async () => {
  const id = await begin(4);
  await work(
    id,
    counting((count) => {
      if (count === 1) throw new Error('The tide is out.');
    }),
  );
  expect(await readJob(database.pool, id)).toMatchObject({
    state: 'failed',
    problem: 'The tide is out.',
    done: 1,
  });
  const other = await begin(1);
  await work(other, { ...counting(), kind: 'dancing' });
  expect(await readJob(database.pool, other)).toMatchObject({
    state: 'failed',
    problem: 'This version does no “counting”.',
  });
});

test('a step that fails is tried again from what was kept, and only the last try ends the job', async () => {
  const id = await begin(3);
  const breaking = counting((count) => {
    if (count === 1) throw new Error('The database restarts.');
  });
  await expect(work(id, breaking, 'one', { lastTry: false })).rejects.toThrow('The database restarts.');
  expect(await stateOf(id)).toEqual(['at work', 1]);
  const from: number[] = [];
  await work(
    id,
    counting((count) => void from.push(count)),
  );
  expect(from).toEqual([1, 2]);
  expect(await stateOf(id)).toEqual(['done', 3]);
});

test('a process that was thought dead and fails later does not end the work of the one that took over', async () => {
  const id = await begin(3);
  let breakDown: (why: Error) => void = () => undefined;
  const hanging = new Promise<void>((_done, fail) => (breakDown = fail));
  const first = work(
    id,
    counting(() => hanging),
    'first',
  );
  while ((await stateOf(id))[0] !== 'at work') await new Promise((done) => setTimeout(done, 5));
  await work(
    id,
    counting(async (count) => {
      if (count !== 1) return;
      breakDown(new Error('The connection is gone.'));
      await first;
      expect(await stateOf(id)).toEqual(['at work', 1]);
    }),
    'second',
  );
  expect(await stateOf(id)).toEqual(['done', 3]);
});

test('of two jobs that want to be alone and are begun at once, one is refused', async () => {
  const alone = (id: string) =>
    beginJob(database.pool, { id, kind: 'lonely', asked: 1, by: 'Mara', alone: true });
  const [first, second] = [uuid(), uuid()];
  const begun = await Promise.all([alone(first), alone(second)]);
  expect([...begun].sort()).toEqual([false, true]);
  expect(await alone(uuid())).toBe(false);
  await askToCancel(database.pool, begun[0] ? first : second);
  expect(await alone(uuid())).toBe(true);
});

test('finished jobs of a kind are forgotten beyond the last twenty; what is at work never is', async () => {
  const paused = await begin(9);
  await askToPause(database.pool, paused);
  for (let made = 0; made < 25; made++) await work(await begin(1), counting());
  await begin(1);
  const jobs = await listJobs(database.pool, 100);
  expect(jobs.length).toBeLessThanOrEqual(23);
  expect(jobs.map(({ id }) => id)).toContain(paused);
});

import type { JobState, JobView, Json } from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Client, type Pool, type Runner } from '../db/pool';

/** A job with what it was asked for and where it stands. */
export interface KeptJob extends JobView {
  readonly asked: Json;
  readonly memory: Json;
}

/** Finished jobs of a kind that are kept to be looked at. */
const keptOfKind = 20;

const view = `id, kind, state, done::float8 AS done, total::float8 AS total, asked_by AS "askedBy", problem, waits,
  created_at AS "createdAt", finished_at AS "finishedAt"`;
const whole = `${view}, asked, memory`;

/** What a job is made from. */
interface NewJob {
  readonly id: string;
  readonly kind: string;
  readonly asked: Json;
  readonly by: string;
  /** There is to be no other of its kind that waits or is at work. */
  readonly alone?: true;
}

/** Held while a job is begun, so that of two that want to be alone one is refused. */
const beginLock = 4605;

/** Makes a job and asks for it to be done. Older finished jobs of its kind are forgotten. Returns whether it was begun. */
export async function beginJob(pool: Pool, job: NewJob): Promise<boolean> {
  return inTransaction(pool, (client) => beginJobIn(client, job));
}

/** The same within a transaction, beside what else is to be true when the job begins. */
export async function beginJobIn(client: Client, { id, kind, asked, by, alone }: NewJob): Promise<boolean> {
  await client.query('SELECT pg_advisory_xact_lock($1, hashtext($2))', [beginLock, kind]);
  if (alone && (await isAtWork(client, kind))) return false;
  await client.query(
    `INSERT INTO jobs (id, kind, asked, asked_by, state) VALUES ($1, $2, $3, $4, 'waiting')`,
    [id, kind, JSON.stringify(asked), by],
  );
  await client.query(
    `DELETE FROM jobs WHERE kind = $1 AND finished_at IS NOT NULL AND id NOT IN (
       SELECT id FROM jobs WHERE kind = $1 ORDER BY created_at DESC LIMIT ${keptOfKind})`,
    [kind],
  );
  await queueJob(client, id);
  await tell(client, { kind: 'job', id });
  return true;
}

async function queueJob(runner: Runner, id: string): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('run_job', json_build_object('id', $1::text), job_key := 'job/' || $1)`,
    [id],
  );
}

/** Returns the latest jobs, at most so many. */
export async function listJobs(runner: Runner, limit: number): Promise<readonly JobView[]> {
  const { rows } = await runner.query<JobView>(`SELECT ${view} FROM jobs ORDER BY created_at DESC LIMIT $1`, [
    limit,
  ]);
  return rows;
}

/** Returns those of the jobs that are not forgotten, by their ids. */
export async function readJobs(
  runner: Runner,
  ids: readonly string[],
): Promise<ReadonlyMap<string, JobView>> {
  const { rows } = await runner.query<JobView>(`SELECT ${view} FROM jobs WHERE id = ANY ($1::uuid[])`, [ids]);
  return new Map(rows.map((job) => [job.id, job]));
}

export async function readJob(runner: Runner, id: string): Promise<KeptJob | undefined> {
  const { rows } = await runner.query<KeptJob>(`SELECT ${whole} FROM jobs WHERE id = $1`, [id]);
  return rows[0];
}

/** Returns how many jobs have not ended. */
export async function countUnfinished(runner: Runner): Promise<number> {
  const { rows } = await runner.query<{ count: number }>(
    'SELECT count(*)::integer AS count FROM jobs WHERE finished_at IS NULL',
  );
  return rows[0]?.count ?? 0;
}

/** Returns whether a job of a kind waits or is at work. */
export async function isAtWork(runner: Runner, kind: string): Promise<boolean> {
  const { rowCount } = await runner.query(
    `SELECT 1 FROM jobs WHERE kind = $1 AND state IN ('waiting', 'at work') LIMIT 1`,
    [kind],
  );
  return rowCount !== 0;
}

/** Returns whether a job of any kind is at work in some process. */
export async function anyAtWork(runner: Runner): Promise<boolean> {
  const { rowCount } = await runner.query(`SELECT 1 FROM jobs WHERE state = 'at work' LIMIT 1`);
  return rowCount !== 0;
}

/**
 * Takes a job for a process: one that waits, or one that was at work in a process that is gone. Returns it; undefined when it is
 * paused or has ended.
 */
export async function takeJob(pool: Pool, id: string, owner: string): Promise<KeptJob | undefined> {
  const { rows } = await pool.query<KeptJob>(
    `UPDATE jobs SET state = 'at work', owner = $2, started_at = coalesce(started_at, now())
     WHERE id = $1 AND state IN ('waiting', 'at work') RETURNING ${whole}`,
    [id, owner],
  );
  return rows[0];
}

/** How far a job has come. */
export interface JobStep {
  readonly memory: Json;
  readonly done: number;
  readonly total: number | null;
  /** What it waits for just now, as a sentence. */
  readonly waits?: string;
}

/** What a person wants of a job at work; `gone` when another process has taken it. */
type JobWish = 'go on' | 'pause' | 'cancel' | 'gone';

/** Keeps how far a job has come. Returns what is wanted of it. */
export async function keepStep(
  runner: Runner,
  id: string,
  owner: string,
  { memory, done, total, waits }: JobStep,
): Promise<JobWish> {
  const { rows } = await runner.query<{ wish: 'pause' | 'cancel' | null }>(
    `UPDATE jobs SET memory = $3, done = $4, total = $5, waits = $6
     WHERE id = $1 AND owner = $2 AND state = 'at work' RETURNING wish`,
    [id, owner, JSON.stringify(memory), done, total, waits ?? null],
  );
  const [row] = rows;
  return row ? (row.wish ?? 'go on') : 'gone';
}

/**
 * Lays a job down: ended, paused, or, when its process stops, waiting for another one. Does nothing to a job that another process
 * has taken.
 */
export async function layDown(
  pool: Pool,
  id: string,
  owner: string,
  { state, problem = null }: { readonly state: JobState; readonly problem?: string | null },
): Promise<void> {
  await inTransaction(pool, async (client) => {
    const { rowCount } = await client.query(
      `UPDATE jobs SET state = $3, problem = $4, wish = NULL, owner = NULL, waits = NULL,
         finished_at = CASE WHEN $3 IN ('done', 'cancelled', 'failed') THEN now() END
       WHERE id = $1 AND owner = $2`,
      [id, owner, state, problem],
    );
    if (rowCount !== 1) return;
    if (state === 'waiting') await queueJob(client, id);
    await tell(client, { kind: 'job', id });
  });
}

/** Asks for a job to be paused. Returns whether it waits or is at work. */
export async function askToPause(pool: Pool, id: string): Promise<boolean> {
  return wish(pool, id, 'pause', 'paused');
}

/** Asks for a job to be cancelled. Returns whether it has not ended. */
export async function askToCancel(pool: Pool, id: string): Promise<boolean> {
  return wish(pool, id, 'cancel', 'cancelled');
}

/** Asks a job to pause or to cancel. One that is at work is told at its next step; any other that has not ended is laid down at once. */
async function wish(
  pool: Pool,
  id: string,
  wanted: 'pause' | 'cancel',
  state: 'paused' | 'cancelled',
): Promise<boolean> {
  return inTransaction(pool, async (client) => {
    const { rowCount } = await client.query(
      `UPDATE jobs SET wish = CASE WHEN state = 'at work' THEN $2 END,
         state = CASE WHEN state = 'at work' THEN state ELSE $3 END,
         finished_at = CASE WHEN state <> 'at work' AND $3 = 'cancelled' THEN now() END
       WHERE id = $1 AND (state IN ('waiting', 'at work') OR (state = 'paused' AND $3 = 'cancelled'))`,
      [id, wanted, state],
    );
    await tell(client, { kind: 'job', id });
    return rowCount === 1;
  });
}

/** Lets a paused job go on. Returns whether it was paused. */
export async function goOn(pool: Pool, id: string): Promise<boolean> {
  return inTransaction(pool, async (client) => {
    const { rowCount } = await client.query(
      `UPDATE jobs SET state = 'waiting' WHERE id = $1 AND state = 'paused'`,
      [id],
    );
    if (rowCount === 1) await queueJob(client, id);
    await tell(client, { kind: 'job', id });
    return rowCount === 1;
  });
}

import type { RecordRef } from '@vast-knot/core';
import { laneChannel } from '../db/notices';
import { prepared, type Runner, type Statement } from '../db/pool';

/** A share of the records of a system, whose events are handled by one job. */
export interface Lane {
  readonly system: string;
  readonly lane: number;
}

const dueStatement = prepared(
  'due in lane',
  `SELECT clock.at::text, due.* FROM (SELECT now() AS at) AS clock LEFT JOIN LATERAL (
     SELECT id, system, record_type AS "recordType", record_id AS "recordId" FROM inbox
     WHERE state = 'waiting' AND system = $1 AND lane_of(system, record_type, record_id) = $2 AND id > $3 AND next_at <= now()
     ORDER BY id LIMIT $4) AS due ON true`,
);

/** What of a lane was due at a moment. */
interface DueInLane {
  /** The moment, as the database tells it. */
  readonly at: string;
  readonly due: readonly { readonly event: string; readonly ref: RecordRef }[];
}

/** Returns records of a lane with an event that is due, in the order of their events from after one on; a record may come twice. */
export async function dueInLane(
  runner: Runner,
  { system, lane }: Lane,
  after: string,
  most: number,
): Promise<DueInLane> {
  const { rows } = await runner.query<{
    readonly at: string;
    readonly id: string | null;
    readonly system: string;
    readonly recordType: string;
    readonly recordId: string;
  }>(dueStatement([system, lane, after, most]));
  return {
    at: rows[0]?.at ?? '',
    due: rows.flatMap(({ id, system: of, recordType, recordId }) =>
      id === null ? [] : [{ event: id, ref: { system: of, recordType, id: recordId } }],
    ),
  };
}

/** Returns when the next event of a lane is due that was not yet at a moment; it may have become so since. */
export async function nextInLane(
  runner: Runner,
  { system, lane }: Lane,
  at: string,
): Promise<Date | undefined> {
  const { rows } = await runner.query<{ next: Date | null }>(
    `SELECT min(next_at) AS next FROM inbox
     WHERE state = 'waiting' AND system = $1 AND lane_of(system, record_type, record_id) = $2 AND next_at > $3::timestamptz`,
    [system, lane, at],
  );
  return rows[0]?.next ?? undefined;
}

/** The key of a lane: of its job, of its queue, and as it is told to those who work at it. */
const laneKey = `concat('lane-', system, '-', lane)`;

/** Asks for one job for each of the lanes that `from` gives. A lane has one job at most that waits, and never two that run. */
const addLaneJobs = (from: string) => `
  WITH lanes AS MATERIALIZED (SELECT DISTINCT system, lane FROM (${from}) AS all_lanes
  ), told AS MATERIALIZED (SELECT pg_notify('${laneChannel}', ${laneKey}) FROM lanes
  ), specs AS (
    SELECT array_agg(ROW('handle_lane', json_build_object('system', system, 'lane', lane), ${laneKey}, NULL, NULL, ${laneKey}, NULL, NULL)
      ::graphile_worker.job_spec) AS all_specs
    FROM lanes
  )
  SELECT count(*)::integer AS count, (SELECT count(*) FROM told) AS told FROM specs, graphile_worker.add_jobs(all_specs) WHERE all_specs IS NOT NULL`;

const queueStatement = prepared(
  'queue records',
  addLaneJobs(
    'SELECT system, lane_of(system, type, id) AS lane FROM unnest($1::text[], $2::text[], $3::text[]) AS asked (system, type, id)',
  ),
);

/** Asks for the waiting events of records to be handled now. A job that is at work in their lane hears of it. */
export async function queueRecords(runner: Runner, refs: readonly RecordRef[]): Promise<void> {
  if (refs.length > 0) await runner.query(queueingRecords(refs));
}

/** As `queueRecords`, to be run with other statements. */
export function queueingRecords(refs: readonly RecordRef[]): Statement {
  return queueStatement([
    refs.map(({ system }) => system),
    refs.map(({ recordType }) => recordType),
    refs.map(({ id }) => id),
  ]);
}

/** Lets a lane be looked at again at a later time; where that was asked for meanwhile, at the time for which it was. */
export async function queueLane(runner: Runner, { system, lane }: Lane, at: Date): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('handle_lane', json_build_object('system', system, 'lane', lane),
       queue_name := ${laneKey}, job_key := ${laneKey}, run_at := $3::timestamptz, job_key_mode := 'preserve_run_at')
     FROM (VALUES ($1::text, $2::integer)) AS one (system, lane)`,
    [system, lane, at],
  );
}

/** Events that wait longer than so many seconds after their time have lost their job. */
const lostAfterSeconds = 20;

/** Gives jobs to lanes with events that wait and have none, after whatever went wrong. Returns how many lanes there were. */
export async function queueLost(runner: Runner, afterSeconds = lostAfterSeconds): Promise<number> {
  const { rows } = await runner.query<{ count: number }>(
    addLaneJobs(
      `SELECT * FROM (
         SELECT DISTINCT system, lane_of(system, record_type, record_id) AS lane FROM inbox
         WHERE state = 'waiting' AND next_at < now() - $1 * interval '1 second'
       ) AS waiting
       WHERE NOT EXISTS (SELECT 1 FROM graphile_worker._private_jobs AS job
         WHERE job.key = ${laneKey} AND job.attempts < job.max_attempts)`,
    ),
    [afterSeconds],
  );
  return rows[0]?.count ?? 0;
}

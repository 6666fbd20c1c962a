import type { RunTimes } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { outOfOrder } from './list';
import { timesOfRuns } from './times';

const hourMs = 3_600_000;

/** What happened in the last day. */
export interface Happened {
  /** What came in each hour, by what came of it. */
  readonly hours: RunTimes['stretches'];
  /** From an event to its last write, in milliseconds; null where nothing was written. */
  readonly milliseconds: { readonly median: number; readonly percentile95: number } | null;
  /** The rules that wrote or failed most, by id. */
  readonly busiest: readonly { readonly id: string; readonly runs: number }[];
}

/** Returns what happened in the last day, with at most so many of the busiest rules. */
export async function readHappened(pool: Pool, now: Date, mostRules: number): Promise<Happened> {
  const nextHour = (Math.floor(now.getTime() / hourMs) + 1) * hourMs;
  const day = {
    own: 'hidden',
    from: new Date(nextHour - 24 * hourMs).toISOString(),
    to: new Date(nextHour).toISOString(),
  } as const;
  // By their ids, so that no statement goes through more than the last day.
  const lastDay = `inbox.id >= (SELECT run_at($1)) - ${outOfOrder} AND received_at > $1 AND inbox.result = 'wrote'`;
  const [{ stretches }, { rows: times }, { rows: busiest }] = await Promise.all([
    timesOfRuns(pool, day),
    pool.query<{ median: number | null; percentile95: number | null }>(
      `SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY ms) AS median, percentile_cont(0.95) WITHIN GROUP (ORDER BY ms) AS "percentile95"
       FROM (SELECT extract(epoch FROM runs.finished_at - inbox.received_at) * 1000 AS ms FROM inbox JOIN runs USING (id)
         WHERE ${lastDay} ORDER BY inbox.id DESC LIMIT 1000) AS last`,
      [day.from],
    ),
    pool.query<{ id: string; runs: number }>(
      `SELECT rule AS id, count(*)::integer AS runs
       FROM (SELECT id FROM inbox WHERE ${lastDay} ORDER BY id DESC LIMIT 5000) AS latest JOIN runs USING (id), unnest(rules_fired) AS rule
       GROUP BY 1 ORDER BY 2 DESC LIMIT $2`,
      [day.from, mostRules],
    ),
  ]);
  const { median = null, percentile95 = null } = times[0] ?? {};
  return {
    hours: stretches,
    milliseconds:
      median === null || percentile95 === null
        ? null
        : { median: Number(median), percentile95: Number(percentile95) },
    busiest,
  };
}

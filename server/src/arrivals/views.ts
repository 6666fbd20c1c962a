import { rowStandings, type ArrivalSummary, type ArrivalView, type RowStanding } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { readJobs } from '../jobs/repository';
import { isUnderWay, isWritten, withRun } from './keptRows';
import type { KeptArrival } from './repository';

interface OutcomeRow {
  readonly arrival: string;
  readonly chosen: number;
  readonly written: number;
  readonly failed: number;
  readonly underWay: number;
}

/** Returns files as lists show them, with how far their jobs have come. */
export async function summariesOf(
  runner: Runner,
  arrivals: readonly KeptArrival[],
): Promise<readonly ArrivalSummary[]> {
  const ids = arrivals.map(({ id }) => id);
  const { rows: counts } = await runner.query<{ arrival: string; standing: RowStanding; count: number }>(
    `SELECT arrival, standing, count(*)::float8 AS count FROM arrival_rows WHERE arrival = ANY ($1) GROUP BY 1, 2`,
    [ids],
  );
  const { rows: outcomeRows } = await runner.query<OutcomeRow>(
    `SELECT arrival, count(*)::float8 AS chosen, (count(*) FILTER (WHERE ${isWritten}))::float8 AS written,
       (count(*) FILTER (WHERE run.state = 'failed'))::float8 AS failed, (count(*) FILTER (WHERE ${isUnderWay}))::float8 AS "underWay"
     FROM arrival_rows AS kept ${withRun} WHERE arrival = ANY ($1) AND chosen_by IS NOT NULL GROUP BY 1`,
    [ids],
  );
  const jobs = await readJobs(
    runner,
    arrivals.flatMap(({ look, applying }) => [look ?? [], applying ?? []].flat()),
  );
  return arrivals.map((arrival) => {
    const { id, name, bytes, way, sentBy, cameAt, system, recordType, head, look, applying } = arrival;
    const outcome = outcomeRows.find(({ arrival }) => arrival === id);
    const of = counts.filter(({ arrival }) => arrival === id);
    return {
      id,
      name,
      bytes,
      way,
      sentBy,
      cameAt: cameAt.toISOString(),
      system,
      recordType,
      problem: head.problem,
      counts: Object.fromEntries(
        rowStandings.map((standing) => [standing, of.find((row) => row.standing === standing)?.count ?? 0]),
      ) as Record<RowStanding, number>,
      chosen: outcome?.chosen ?? 0,
      written: outcome?.written ?? 0,
      failed: outcome?.failed ?? 0,
      underWay: outcome?.underWay ?? 0,
      look: (look === null ? undefined : jobs.get(look)) ?? null,
      applying: (applying === null ? undefined : jobs.get(applying)) ?? null,
    };
  });
}

/** Returns a file with all that its page shows. */
export async function viewOf(runner: Runner, arrival: KeptArrival): Promise<ArrivalView> {
  const [summary] = await summariesOf(runner, [arrival]);
  if (!summary) throw new RangeError('The file is gone.');
  const { layout, revision, head, lookedRevision, digest, id } = arrival;
  const { rows: twice } = await runner.query<{ count: number }>(
    'SELECT count(*)::float8 AS count FROM arrival_rows WHERE arrival = $1 AND same_key_as IS NOT NULL',
    [id],
  );
  const { rows: same } = await runner.query<NonNullable<ArrivalView['sameAs']>>(
    `SELECT other.id, other.name, to_json(other.came_at) #>> '{}' AS "cameAt", count(kept.at)::float8 AS applied
     FROM arrivals AS other LEFT JOIN arrival_rows AS kept ON kept.arrival = other.id AND kept.run_id IS NOT NULL
     WHERE other.digest = $1 AND other.id <> $2 AND other.applying IS NOT NULL GROUP BY other.id ORDER BY other.came_at DESC LIMIT 1`,
    [digest, id],
  );
  return {
    ...summary,
    layout,
    revision,
    head,
    changedSince: lookedRevision !== null && lookedRevision !== revision,
    twice: twice[0]?.count ?? 0,
    sameAs: same[0] ?? null,
  };
}

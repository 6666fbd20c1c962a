import { inTransaction, type Pool, type Runner } from '../db/pool';

/** For how many days runs are kept, with what came in and what was written. */
export interface Keeping {
  readonly days: number;
  /** Those that failed, wholly or in part. */
  readonly failedDays: number;
}

/** Runs that go in one transaction. */
const atOnce = 1000;

/** For how many days it is remembered that a record was removed, so that what comes late is known to be late. */
const goneDays = 30;

/**
 * Removes runs that are older than they are kept, oldest first, with their events, writes and messages; how many there were of each rule
 * on each day is kept. Each part costs the same, however many runs stay. Returns how many went.
 */
export async function clearOld(
  pool: Pool,
  { days, failedDays }: Keeping,
  stopping = () => false,
): Promise<number> {
  let cleared = 0;
  for (const [trouble, kept] of [
    [false, days],
    [true, failedDays],
  ] as const) {
    for (let went = atOnce; went === atOnce && !stopping(); cleared += went)
      went = await inTransaction(pool, (client) => clearPart(client, trouble, kept));
  }
  await pool.query(`DELETE FROM images WHERE gone_at < now() - $1 * interval '1 day'`, [goneDays]);
  return cleared;
}

/** The oldest runs that may go. */
const oldest = (trouble: boolean) =>
  `SELECT id, system, received_at FROM inbox WHERE state <> 'waiting' AND ${trouble ? 'trouble' : 'NOT trouble'}
   AND received_at < now() - $1 * interval '1 day' ORDER BY received_at LIMIT ${atOnce} FOR UPDATE SKIP LOCKED`;

async function clearPart(runner: Runner, trouble: boolean, days: number): Promise<number> {
  const { rows } = await runner.query<{ id: string }>(
    `WITH old AS (${oldest(trouble)}), counted AS (
       INSERT INTO run_counts (day, system, rule_id, result, count)
       SELECT (old.received_at AT TIME ZONE 'UTC')::date, old.system, coalesce(rule, ''), coalesce(result, 'not taken'), count(*)
       FROM old LEFT JOIN runs USING (id) LEFT JOIN LATERAL unnest(rules_fired) AS rule ON true
       GROUP BY 1, 2, 3, 4
       ON CONFLICT (day, system, rule_id, result) DO UPDATE SET count = run_counts.count + EXCLUDED.count
     )
     SELECT id FROM old`,
    [days],
  );
  const ids = rows.map(({ id }) => id);
  if (ids.length === 0) return 0;
  for (const [table, column] of [
    ['messages', 'run_id'],
    ['flights', 'run_id'],
    ['planned_writes', 'run_id'],
    ['writes', 'run_id'],
    ['runs', 'id'],
    ['inbox', 'id'],
  ] as const)
    await runner.query(`DELETE FROM ${table} WHERE ${column} = ANY ($1::bigint[])`, [ids]);
  return ids.length;
}

/** Runs of one day, by the rule that wrote or failed. */
export interface DayCount {
  /** YYYY-MM-DD, in UTC. */
  readonly day: string;
  readonly system: string;
  readonly rule: string;
  readonly result: string;
  readonly count: number;
}

/** Returns the counts of the runs that are not kept any more, oldest first. */
export async function readCounts(runner: Runner): Promise<readonly DayCount[]> {
  const { rows } = await runner.query<DayCount>(
    `SELECT day::text, system, rule_id AS rule, result, count::integer FROM run_counts ORDER BY day, system, rule_id, result`,
  );
  return rows;
}

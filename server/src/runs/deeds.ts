import type { RuleDeeds } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { outOfOrder } from './list';

const dayMs = 86_400_000;
/** So many of the newest runs are gone through for all rules together; a rule that is in none of them is looked up by itself. */
const newest = 5000;

/** Returns what rules did lately: the last run of each, and how many of the last day failed. */
export async function readDeeds(
  pool: Pool,
  ids: readonly string[],
  now: Date,
): Promise<readonly RuleDeeds[]> {
  const since = new Date(now.getTime() - dayMs).toISOString();
  const [{ rows: last }, { rows: failed }] = await Promise.all([
    pool.query<{ rule: string; run: string; at: Date }>(
      `WITH lately AS (
         SELECT rule, max(id) AS run FROM (SELECT id, rules_fired FROM runs ORDER BY id DESC LIMIT ${newest}) AS runs,
           unnest(rules_fired) AS rule GROUP BY 1
       ), seldom AS (
         SELECT rule, (SELECT max(id) FROM runs WHERE rules_fired @> ARRAY[rule]) AS run
         FROM unnest($1::text[]) AS asked (rule) WHERE rule NOT IN (SELECT rule FROM lately)
       )
       SELECT rule, run::text, received_at AS at FROM (SELECT * FROM lately UNION ALL SELECT * FROM seldom) AS each
       JOIN inbox ON inbox.id = run WHERE rule = ANY ($1)`,
      [ids],
    ),
    pool.query<{ rule: string; failed: number }>(
      `SELECT rule, count(*)::integer AS failed FROM inbox JOIN runs USING (id), unnest(rules_fired) AS rule
       WHERE inbox.result IN ('failed', 'partly failed') AND inbox.id >= (SELECT run_at($1)) - ${outOfOrder} AND received_at >= $1
       GROUP BY 1`,
      [since],
    ),
  ]);
  const lastOf = new Map(last.map(({ rule, run, at }) => [rule, { run, at: at.toISOString() }]));
  const failedOf = new Map(failed.map(({ rule, failed: count }) => [rule, count]));
  return ids.map((id) => ({ id, last: lastOf.get(id) ?? null, failed: failedOf.get(id) ?? 0 }));
}

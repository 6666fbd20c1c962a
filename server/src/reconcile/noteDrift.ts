import type { ExistingStanding } from '@vast-knot/core';
import type { Runner } from '../db/pool';

/** How records stand that are out of step: what is right, and what is none of the rule's, is not. */
const outOfStep: readonly ExistingStanding[] = ['changes', 'cannot'];

/**
 * Keeps what a look found that the clock asked for: how many records stand how, and how many are out of step that were not at the look
 * before. A look that a person asked for is left alone.
 */
export async function noteDrift(runner: Runner, reconcile: string): Promise<void> {
  await runner.query(
    `WITH here AS (SELECT rule_id, due, reconcile FROM drift_looks WHERE reconcile = $1
     ), earlier AS (
       SELECT drift_looks.reconcile FROM drift_looks JOIN here USING (rule_id) JOIN reconciles ON reconciles.id = drift_looks.reconcile
       WHERE drift_looks.due < here.due AND drift_looks.counts IS NOT NULL ORDER BY drift_looks.due DESC LIMIT 1
     ), before AS (
       SELECT (SELECT coalesce(sum(value::bigint), 0) FROM jsonb_each_text(drift_looks.counts) WHERE key = ANY ($2)) AS out
       FROM drift_looks JOIN here USING (rule_id)
       WHERE drift_looks.due < here.due AND drift_looks.counts IS NOT NULL ORDER BY drift_looks.due DESC LIMIT 1
     ), stands AS (
       SELECT standing, count(*)::integer AS count FROM reconcile_records WHERE reconcile = $1 GROUP BY 1
       UNION ALL SELECT 'right', sum(cardinality(ids))::integer FROM reconcile_right WHERE reconcile = $1 HAVING count(*) > 0
     )
     UPDATE drift_looks SET
       counts = coalesce((SELECT json_object_agg(standing, count) FROM stands), '{}'),
       -- Where the records of the look before are forgotten by now, only their number can be told.
       fresh = CASE WHEN EXISTS (SELECT 1 FROM earlier) OR NOT EXISTS (SELECT 1 FROM before) THEN
         (SELECT count(*) FROM reconcile_records AS now WHERE now.reconcile = $1 AND standing = ANY ($2)
           AND NOT EXISTS (SELECT 1 FROM reconcile_records AS known, earlier
             WHERE known.reconcile = earlier.reconcile AND known.record_id = now.record_id AND known.standing = ANY ($2)))
         ELSE greatest(0, (SELECT coalesce(sum(count), 0) FROM stands WHERE standing = ANY ($2)) - (SELECT out FROM before)) END
     FROM here WHERE drift_looks.reconcile = here.reconcile`,
    [reconcile, outOfStep],
  );
}

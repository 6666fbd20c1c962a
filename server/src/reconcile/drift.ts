import { v5 as uuidFrom } from 'uuid';
import { isDue, type DriftLook, type DriftView, type Schedule } from '@vast-knot/core';
import type { Pool, Runner } from '../db/pool';
import type { Registry } from '../registry/registry';
import { readRule } from '../rules/repository';
import { asItRuns, beginLook } from './begin';

/** Namespace of the ids of looks that the clock asks for: any fixed UUID does. */
const namespace = 'b1b5c3b0-0a54-4d0c-9d0a-6a2e9f1d2c3e';

/** Looks of one rule whose counts are kept: a line for each day of a year. */
const keptLooks = 400;

/** Asks for a rule to be held beside what exists at certain times, only to look. */
export async function watchDrift(
  runner: Runner,
  { rule, schedule, by }: { readonly rule: string; readonly schedule: Schedule; readonly by: string },
): Promise<void> {
  await runner.query(
    `INSERT INTO drift_watches (rule_id, schedule, asked_by) VALUES ($1, $2, $3)
     ON CONFLICT (rule_id) DO UPDATE SET schedule = EXCLUDED.schedule, asked_by = EXCLUDED.asked_by, asked_at = now()`,
    [rule, JSON.stringify(schedule), by],
  );
}

/** Ends that a rule is looked at by the clock; what was found before is forgotten. */
export async function endDrift(runner: Runner, rule: string): Promise<void> {
  await runner.query('DELETE FROM drift_watches WHERE rule_id = $1', [rule]);
}

/** Returns when a rule is looked at, and what was found, the latest first; undefined where it is not looked at by the clock. */
export async function readDrift(runner: Runner, rule: string): Promise<DriftView | undefined> {
  const { rows } = await runner.query<Omit<DriftView, 'looks'>>(
    `SELECT schedule, asked_by AS by, asked_at AS at FROM drift_watches WHERE rule_id = $1`,
    [rule],
  );
  const [watch] = rows;
  if (!watch) return undefined;
  const { rows: looks } = await runner.query<DriftLook>(
    // What ended without having found anything says why; its job is forgotten after some more.
    `SELECT due, counts, fresh::float8 AS fresh,
       coalesce(drift_looks.problem, CASE WHEN counts IS NULL AND (jobs.id IS NULL OR jobs.finished_at IS NOT NULL)
         THEN coalesce(jobs.problem, 'It was stopped before it had looked at all records.') END) AS problem,
       CASE WHEN EXISTS (SELECT 1 FROM reconciles WHERE id = reconcile) THEN reconcile END AS look
     FROM drift_looks LEFT JOIN jobs ON jobs.id = reconcile WHERE rule_id = $1 ORDER BY due DESC LIMIT ${keptLooks}`,
    [rule],
  );
  return { ...watch, looks };
}

/**
 * Begins the looks that are due at a minute. Their ids come from rule and minute, so that a minute that is gone through twice begins
 * none twice. What cannot be looked at gives a line that says why. Returns how many were begun.
 */
export async function driftTick(pool: Pool, registry: Registry, minute: string): Promise<number> {
  const { rows } = await pool.query<{ rule: string; schedule: Schedule; by: string }>(
    `SELECT rule_id AS rule, schedule, asked_by AS by FROM drift_watches JOIN rules ON rules.id = rule_id WHERE removed_at IS NULL`,
  );
  let begun = 0;
  for (const { rule: ruleId, schedule, by } of rows) {
    if (!isDue(schedule, minute)) continue;
    const id = uuidFrom(`${ruleId}/${minute}`, namespace);
    const { rowCount } = await pool.query(
      'INSERT INTO drift_looks (rule_id, due, reconcile) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING',
      [ruleId, minute, id],
    );
    if (rowCount !== 1) continue;
    const view = await readRule(pool, ruleId);
    const rule = view && asItRuns(view);
    const not = rule
      ? await beginLook(pool, registry, { id, rule, existing: 'as its lines say', by })
      : { because: 'The rule is not published.' };
    if (not) await pool.query('UPDATE drift_looks SET problem = $2 WHERE reconcile = $1', [id, not.because]);
    else begun++;
    await pool.query(
      `DELETE FROM drift_looks WHERE rule_id = $1 AND due < (
         SELECT due FROM drift_looks WHERE rule_id = $1 ORDER BY due DESC OFFSET ${keptLooks} LIMIT 1)`,
      [ruleId],
    );
  }
  return begun;
}

/** A look that the clock asked for, in which records were newly out of step. */
export interface NewlyOut {
  readonly look: string;
  /** How the rule is called. */
  readonly rule: string;
  readonly fresh: number;
}

/** Returns the looks that were due at a time or later in which records were newly out of step. */
export async function newlyOutSince(runner: Runner, since: Date): Promise<readonly NewlyOut[]> {
  const { rows } = await runner.query<NewlyOut>(
    `SELECT reconcile AS look, draft->>'name' AS rule, fresh::integer AS fresh
     FROM drift_looks JOIN rules ON rules.id = rule_id WHERE fresh > 0 AND due >= $1`,
    [since],
  );
  return rows;
}

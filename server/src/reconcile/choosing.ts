import { existingSource, type Brings, type Judged, type ReconcileFilter } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { fitting, writable } from './repository';

/** Which of the records that would change are to be written: all that a filter lets through, or single ones. */
export interface Choice {
  readonly filter?: ReconcileFilter;
  readonly ids?: readonly string[];
  /** Left out of what the filter lets through. */
  readonly without?: readonly string[];
}

/** The records of a choice that can still be written, as a part of a statement with its values. */
function chosen(reconcile: string, { filter = {}, ids, without }: Choice) {
  const { from, values } = fitting(reconcile, filter);
  const only = ids ? `AND kept.record_id = ANY ($${values.push(ids)}::text[])` : '';
  const left = without ? `AND kept.record_id <> ALL ($${values.push(without)}::text[])` : '';
  return { from: `${from} AND ${writable} ${only} ${left}`, values };
}

/** Returns how many records of a choice can be written. */
export async function countChosen(runner: Runner, reconcile: string, choice: Choice): Promise<number> {
  const { from, values } = chosen(reconcile, choice);
  const { rows } = await runner.query<{ count: number }>(
    `SELECT count(*)::float8 AS count FROM ${from}`,
    values,
  );
  return rows[0]?.count ?? 0;
}

/** Marks the records of a choice as those that a job is to write. */
export async function choose(runner: Runner, reconcile: string, job: string, choice: Choice): Promise<void> {
  const { from, values } = chosen(reconcile, choice);
  await runner.query(
    `UPDATE reconcile_records SET chosen_by = $${values.push(job)}, skipped = NULL WHERE seq IN (SELECT kept.seq FROM ${from})`,
    values,
  );
}

/** A record that is to be written. */
export interface ChosenRecord extends Judged {
  readonly seq: string;
  readonly recordId: string;
}

/** Notes the runs of records that an earlier version began, and was killed before it noted them. */
export async function noteBegun(runner: Runner, reconcile: string, job: string): Promise<void> {
  await runner.query(
    `UPDATE reconcile_records AS kept SET run_id = inbox.id FROM inbox
     WHERE kept.chosen_by = $1 AND kept.run_id IS NULL AND kept.skipped IS NULL
       AND inbox.state IN ('waiting', 'done', 'failed') AND inbox.source = $3 AND inbox.event_id = $2::text || '/' || kept.record_id`,
    [job, reconcile, existingSource],
  );
}

/**
 * Returns the places of the next records that a job has to write, after one of them. Without that place the database would go through all that
 * were dealt with, again and again.
 */
export async function nextChosen(
  runner: Runner,
  job: string,
  { after, limit }: { readonly after: string; readonly limit: number },
): Promise<readonly string[]> {
  const { rows } = await runner.query<{ seq: string }>(
    `SELECT seq FROM reconcile_records WHERE chosen_by = $1 AND seq > $2 AND run_id IS NULL AND skipped IS NULL ORDER BY seq LIMIT $3`,
    [job, after, limit],
  );
  return rows.map(({ seq }) => seq);
}

/** What became of a chosen record: the run that was begun, or why it was left out; both where the run had written something for it before that. */
export interface Dealt {
  readonly seq: string;
  readonly run?: string;
  readonly skipped?: string;
}

export async function noteDealt(runner: Runner, dealt: readonly Dealt[]): Promise<void> {
  if (dealt.length === 0) return;
  await runner.query(
    `UPDATE reconcile_records SET run_id = dealt.run, skipped = dealt.skipped, together = false, failed = NULL
     FROM json_to_recordset($1::json) AS dealt (seq bigint, run bigint, skipped text)
     WHERE reconcile_records.seq = dealt.seq`,
    [JSON.stringify(dealt)],
  );
}

/** Notes which records runs write together. */
export async function noteTogether(
  runner: Runner,
  runs: readonly { readonly run: string; readonly seqs: readonly string[] }[],
): Promise<void> {
  await runner.query(
    `UPDATE reconcile_records SET run_id = made.run, together = true, failed = NULL
     FROM unnest($1::bigint[], $2::bigint[]) AS made (run, seq) WHERE reconcile_records.seq = made.seq`,
    [runs.flatMap(({ run, seqs }) => seqs.map(() => run)), runs.flatMap(({ seqs }) => seqs)],
  );
}

/** Returns the records that a run writes together; what went wrong in an earlier try is forgotten. */
export async function recordsTogether(
  runner: Runner,
  run: string,
  { records }: Brings,
): Promise<readonly ChosenRecord[]> {
  const { rows } = await runner.query<ChosenRecord>(
    `WITH anew AS (UPDATE reconcile_records SET failed = NULL WHERE seq = ANY ($2::bigint[]) AND run_id = $1 AND failed IS NOT NULL)
     SELECT seq, record_id AS "recordId", standing, coalesce(because, '') AS because, coalesce(differences, '[]') AS differences
     FROM reconcile_records WHERE seq = ANY ($2::bigint[]) AND run_id = $1 AND together ORDER BY seq`,
    [run, records],
  );
  return rows;
}

/** Returns the ids of the records for which a run that writes many has written something, and whether that is all that it planned for them. */
export async function writtenFor(runner: Runner, run: string): Promise<ReadonlyMap<string, boolean>> {
  const { rows } = await runner.query<{ id: string; all: boolean }>(
    `SELECT id, bool_and(state = 'written') AS "all" FROM (
       SELECT DISTINCT ON (id, system, record_type, record_id) planned->'about'->>'id' AS id, state
       FROM planned_writes JOIN writes USING (run_id, plan, seq) WHERE run_id = $1
       ORDER BY id, system, record_type, record_id, plan DESC) AS last
     GROUP BY id HAVING bool_or(state = 'written')`,
    [run],
  );
  return new Map(rows.map(({ id, all }) => [id, all]));
}

/** Gives the records of a run back to the job that chose them, but for those that it has written to: they stay with it. Returns how many. */
export async function giveBack(runner: Runner, run: string, { records }: Brings): Promise<number> {
  const { rowCount } = await runner.query(
    `UPDATE reconcile_records AS kept SET run_id = NULL, together = false, failed = NULL
     WHERE seq = ANY ($2::bigint[]) AND run_id = $1 AND together AND NOT EXISTS (
       SELECT FROM planned_writes JOIN writes USING (run_id, plan, seq)
       WHERE run_id = $1 AND state = 'written' AND planned->'about'->>'id' = kept.record_id)`,
    [run, records],
  );
  return rowCount ?? 0;
}

/**
 * Notes of the records that a run writes together which of them were not written, and why: by the first of their writes that was not made, and by
 * `because` where none was planned.
 */
export async function noteFailed(
  runner: Runner,
  run: string,
  { records }: Brings,
  because: string,
): Promise<void> {
  await runner.query(
    `UPDATE reconcile_records AS kept SET failed = stands.problem
     FROM (
       SELECT record.seq, CASE
         WHEN NOT EXISTS (SELECT FROM planned_writes WHERE run_id = $1) THEN $2
         ELSE (SELECT coalesce(writes.problem, $2) FROM planned_writes JOIN writes USING (run_id, plan, seq)
           WHERE run_id = $1 AND planned->'about'->>'id' = record.record_id AND writes.state <> 'written'
             AND plan = (SELECT max(plan) FROM planned_writes WHERE run_id = $1) ORDER BY writes.seq LIMIT 1) END AS problem
       FROM reconcile_records AS record WHERE record.seq = ANY ($3::bigint[]) AND record.run_id = $1 AND record.together
     ) AS stands WHERE kept.seq = stands.seq`,
    [run, because, records],
  );
}

/** How far a job that writes has come. */
export interface Progress {
  readonly total: number;
  readonly begun: number;
  readonly underWay: number;
  /** Why one of those under way waits for a system. */
  readonly waits: string | null;
}

/** Returns how many records a job has to write in all, how many were dealt with, and how many of those are still under way. */
export async function progressOf(runner: Runner, job: string): Promise<Progress> {
  const { rows } = await runner.query<{
    total: number;
    begun: number;
    underWay: number;
    waits: string | null;
  }>(
    `SELECT count(*)::float8 AS total, (count(*) FILTER (WHERE run_id IS NOT NULL OR skipped IS NOT NULL))::float8 AS begun,
       (count(*) FILTER (WHERE run.state = 'waiting'))::float8 AS "underWay",
       min(run.because) FILTER (WHERE run.state = 'waiting' AND run.waits_for IS NOT NULL) AS waits
     FROM reconcile_records LEFT JOIN inbox AS run ON run.id = run_id WHERE chosen_by = $1`,
    [job],
  );
  return rows[0] ?? { total: 0, begun: 0, underWay: 0, waits: null };
}

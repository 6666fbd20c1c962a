import type { ArrivalFilter, JsonObject } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { fitting, writable } from './keptRows';

/** Which rows are to be applied: all that a filter lets through, or single ones. */
export interface RowChoice {
  readonly filter?: ArrivalFilter;
  readonly rows?: readonly number[];
}

function chosenRows(id: string, { filter = {}, rows }: RowChoice) {
  const { alone, values } = fitting(id, filter);
  const only = rows ? `AND kept.at = ANY ($${values.push(rows)}::integer[])` : '';
  return { from: `${alone} AND ${writable} ${only}`, values };
}

/** Returns how many rows of a choice can be applied. */
export async function countChosen(runner: Runner, id: string, choice: RowChoice): Promise<number> {
  const { from, values } = chosenRows(id, choice);
  const { rows } = await runner.query<{ count: number }>(
    `SELECT count(*)::float8 AS count FROM ${from}`,
    values,
  );
  return rows[0]?.count ?? 0;
}

/** Marks the rows of a choice as those that a job is to apply. */
export async function chooseRows(runner: Runner, id: string, job: string, choice: RowChoice): Promise<void> {
  const { from, values } = chosenRows(id, choice);
  await runner.query(
    `UPDATE arrival_rows SET chosen_by = $${values.push(job)} WHERE arrival = $1 AND at IN (SELECT kept.at FROM ${from})`,
    values,
  );
}

/** A row that is to be applied. */
export interface ChosenRow {
  readonly at: number;
  readonly place: string;
  readonly value: JsonObject;
  /** The run that was begun before the process was killed that would have noted it; null where there is none. */
  readonly begun: string | null;
}

/** Returns the next rows that a job has to apply. */
export async function nextRows(
  runner: Runner,
  job: string,
  { source, limit }: { readonly source: string; readonly limit: number },
): Promise<readonly ChosenRow[]> {
  const { rows } = await runner.query<ChosenRow>(
    `SELECT kept.at, kept.place, kept.value,
       (SELECT inbox.id::text FROM inbox WHERE inbox.state IN ('waiting', 'done', 'failed') AND inbox.source = $3
          AND inbox.event_id = kept.at::text) AS begun
     FROM arrival_rows AS kept WHERE kept.chosen_by = $1 AND kept.run_id IS NULL ORDER BY kept.at LIMIT $2`,
    [job, limit, source],
  );
  return rows;
}

/** Notes which runs rows began. */
export async function noteRuns(
  runner: Runner,
  id: string,
  runs: readonly { readonly at: number; readonly run: string }[],
): Promise<void> {
  if (runs.length === 0) return;
  await runner.query(
    `UPDATE arrival_rows SET run_id = begun.run FROM json_to_recordset($2::json) AS begun (at integer, run bigint)
     WHERE arrival = $1 AND arrival_rows.at = begun.at`,
    [id, JSON.stringify(runs)],
  );
}

/** Returns how many rows a job has to apply in all, how many were begun, and how many of those are still under way. */
export async function progressOf(
  runner: Runner,
  job: string,
): Promise<{ readonly total: number; readonly begun: number; readonly underWay: number }> {
  const { rows } = await runner.query<{ total: number; begun: number; underWay: number }>(
    `SELECT count(*)::float8 AS total, count(run_id)::float8 AS begun,
       (count(*) FILTER (WHERE run.state = 'waiting'))::float8 AS "underWay"
     FROM arrival_rows LEFT JOIN inbox AS run ON run.id = run_id WHERE chosen_by = $1`,
    [job],
  );
  return rows[0] ?? { total: 0, begun: 0, underWay: 0 };
}

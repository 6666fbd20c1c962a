import type { ArrivalFilter, ArrivalRow, JsonObject, RowJudged } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { storable } from '../db/storable';

/** Forgets rows of an earlier look of which no run was begun. */
export async function forgetRows(runner: Runner, id: string): Promise<void> {
  await runner.query('DELETE FROM arrival_rows WHERE arrival = $1 AND run_id IS NULL', [id]);
}

/** A row as a look leaves it. */
export interface LookedRow extends RowJudged {
  readonly at: number;
  readonly place: string;
  readonly value: JsonObject | null;
  readonly text: string | null;
  readonly recordId: string | null;
}

/** Makes every text within JSON one that PostgreSQL keeps, names too. */
function storableIn(_name: string, json: unknown): unknown {
  if (typeof json === 'string') return storable(json);
  if (typeof json !== 'object' || json === null || Array.isArray(json)) return json;
  return Object.keys(json).every((name) => storable(name) === name)
    ? json
    : Object.fromEntries(Object.entries(json).map(([name, value]) => [storable(name), value as unknown]));
}

/** Keeps how rows stand. A row that was applied keeps its run. */
export async function keepRows(runner: Runner, id: string, rows: readonly LookedRow[]): Promise<void> {
  if (rows.length === 0) return;
  await runner.query(
    `INSERT INTO arrival_rows (arrival, at, place, value, text, record_id, standing, because, differences)
     SELECT $1, at, place, value, text, "recordId", standing, nullif(because, ''), nullif(differences, '[]')
     FROM json_to_recordset($2::json) AS looked
       (at integer, place text, value json, text text, "recordId" text, standing text, because text, differences jsonb)
     ON CONFLICT (arrival, at) DO UPDATE SET place = EXCLUDED.place, value = EXCLUDED.value, text = EXCLUDED.text,
       record_id = EXCLUDED.record_id, standing = EXCLUDED.standing, because = EXCLUDED.because, differences = EXCLUDED.differences`,
    [id, JSON.stringify(rows, storableIn)],
  );
}

/** Notes which rows have the key of an earlier row of the file, and of which keys a row of an earlier file was applied. */
export async function noteRepeats(runner: Runner, id: string): Promise<void> {
  await runner.query(
    `WITH firsts AS (SELECT record_id, min(at) AS first FROM arrival_rows
       WHERE arrival = $1 AND record_id IS NOT NULL GROUP BY record_id HAVING count(*) > 1)
     UPDATE arrival_rows AS kept SET same_key_as = nullif(first, kept.at)
     FROM firsts WHERE kept.arrival = $1 AND kept.record_id = firsts.record_id`,
    [id],
  );
  await runner.query(
    `UPDATE arrival_rows AS kept SET applied_before = earlier.at FROM (
       SELECT one.at, max(other_arrival.came_at) AS came FROM arrival_rows AS one
       JOIN arrivals AS own ON own.id = one.arrival
       JOIN arrival_rows AS other ON other.record_id = one.record_id AND other.run_id IS NOT NULL AND other.arrival <> one.arrival
       JOIN arrivals AS other_arrival ON other_arrival.id = other.arrival
         AND other_arrival.system = own.system AND other_arrival.record_type = own.record_type
       WHERE one.arrival = $1 GROUP BY one.at) AS earlier (row_at, at)
     WHERE kept.arrival = $1 AND kept.at = earlier.row_at`,
    [id],
  );
}

/** It was applied and went well; one that is forgotten by now did so, or is as good as that. */
export const isWritten = `run.state = 'done' OR (kept.run_id IS NOT NULL AND run.id IS NULL)`;
/** It is to be applied by a job that has not ended, or its run goes on. */
export const isUnderWay = `run.state = 'waiting' OR (kept.chosen_by IS NOT NULL AND kept.run_id IS NULL AND job.id IS NOT NULL)`;
/** With the run of each row, and with the job that is to apply it while that has not ended. */
export const withRun = `LEFT JOIN inbox AS run ON run.id = kept.run_id
  LEFT JOIN jobs AS job ON job.id = kept.chosen_by AND job.finished_at IS NULL`;

const outcomes: Readonly<Record<NonNullable<ArrivalFilter['outcome']>, string>> = {
  written: isWritten,
  failed: `run.state = 'failed'`,
  'under way': isUnderWay,
};

/** What of a file can still be applied. */
export const writable = `kept.standing IN ('create', 'change') AND kept.run_id IS NULL`;

/** The rows of a file that a filter lets through, as a part of a statement with its values. */
export function fitting(id: string, { standing, search, outcome }: ArrivalFilter) {
  const values: unknown[] = [id];
  const bound = (value: unknown) => `$${values.push(value)}`;
  const conditions = ['kept.arrival = $1'];
  if (standing !== undefined) conditions.push(`kept.standing = ${bound(standing)}`);
  if (outcome !== undefined) conditions.push(`(${outcomes[outcome]})`);
  if (search !== undefined && search !== '') {
    const like = bound(`%${search.replaceAll(/[\\%_]/g, '\\$&')}%`);
    conditions.push(
      `(kept.record_id ILIKE ${like} OR kept.place ILIKE ${like} OR kept.because ILIKE ${like} OR kept.value::text ILIKE ${like})`,
    );
  }
  const where = `WHERE ${conditions.join(' AND ')}`;
  return {
    /** The rows with the run and the job of each. */
    from: `arrival_rows AS kept ${withRun} ${where}`,
    /** The rows alone, where no more is asked of them: half a million are counted much sooner so. */
    alone: `arrival_rows AS kept ${outcome === undefined ? '' : withRun} ${where}`,
    values,
  };
}

/** A row as it is kept, with its run. */
export interface KeptRow extends Omit<ArrivalRow, 'record' | 'mends'> {
  readonly value: JsonObject | null;
  readonly text: string | null;
}

const rowColumns = `kept.at, kept.place, kept.value, kept.text, kept.record_id AS "recordId", kept.standing,
  coalesce(kept.because, '') AS because, coalesce(kept.differences, '[]') AS differences, kept.same_key_as AS "sameKeyAs",
  to_json(kept.applied_before) #>> '{}' AS "appliedBefore", job.id IS NOT NULL AS chosen,
  CASE WHEN run.id IS NOT NULL THEN json_build_object(
    'id', run.id::text, 'state', run.state, 'result', run.result, 'because', coalesce(run.because, '')) END AS run`;

/** Returns rows of a file in their order, after one of them. */
export async function listRows(
  runner: Runner,
  id: string,
  filter: ArrivalFilter,
  { after, limit }: { readonly after: number; readonly limit: number },
): Promise<readonly KeptRow[]> {
  const { from, values } = fitting(id, filter);
  const { rows } = await runner.query<KeptRow>(
    `SELECT ${rowColumns} FROM ${from} AND kept.at > $${values.length + 1} ORDER BY kept.at LIMIT $${values.length + 2}`,
    [...values, after, limit],
  );
  return rows;
}

export async function readRow(runner: Runner, id: string, at: number): Promise<KeptRow | undefined> {
  const { rows } = await runner.query<KeptRow>(
    `SELECT ${rowColumns} FROM arrival_rows AS kept ${withRun} WHERE kept.arrival = $1 AND kept.at = $2`,
    [id, at],
  );
  return rows[0];
}

export async function countRows(
  runner: Runner,
  id: string,
  filter: ArrivalFilter,
): Promise<{ readonly total: number; readonly writable: number }> {
  const { alone, values } = fitting(id, filter);
  const { rows } = await runner.query<{ total: number; writable: number }>(
    `SELECT count(*)::float8 AS total, (count(*) FILTER (WHERE ${writable}))::float8 AS writable FROM ${alone}`,
    values,
  );
  return rows[0] ?? { total: 0, writable: 0 };
}

import {
  refKey,
  type PlannedWrite,
  type RecordRef,
  type RunDetail,
  type WriteState,
  type WriteView,
} from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { tellsOfChange } from './toldAs';

/** Writes of a run that are shown. */
const mostShown = 2000;

/** Returns how many of the records that a run writes are written; null before it is known. */
export async function readProgress(runner: Runner, runId: string): Promise<RunDetail['progress']> {
  const { rows } = await runner.query<{ written: number; planned: number }>(
    `SELECT count(*) FILTER (WHERE state = 'written')::integer AS written, count(*)::integer AS planned
     FROM writes WHERE run_id = $1 AND state NOT IN ('skipped', 'conflict')`,
    [runId],
  );
  const [row] = rows;
  return row && row.planned > 0 ? row : null;
}

interface WriteRow {
  readonly planned: PlannedWrite;
  readonly recordId: string;
  readonly plan: number;
  readonly state: WriteState;
  readonly problem: string | null;
  readonly writtenAt: string | null;
}

/** Returns the writes of a run, one for each record: the latest that is known of it. */
export async function readOutcome(runner: Runner, runId: string): Promise<readonly WriteView[]> {
  const { rows } = await runner.query<WriteRow>(
    `SELECT planned, record_id AS "recordId", plan, problem, written_at AS "writtenAt",
       CASE WHEN EXISTS (SELECT 1 FROM flights WHERE (run_id, plan, seq) = (latest.run_id, latest.plan, latest.seq))
         THEN 'sending' ELSE state END AS state
     FROM writes AS latest JOIN planned_writes USING (run_id, plan, seq)
     WHERE run_id = $1 AND NOT EXISTS (
       SELECT 1 FROM writes AS later
       WHERE later.run_id = $1 AND later.plan > latest.plan AND later.system = latest.system
         AND later.record_type = latest.record_type AND later.record_id = latest.record_id AND latest.state <> 'written')
     ORDER BY plan, seq LIMIT ${mostShown}`,
    [runId],
  );
  return rows.map(({ planned, recordId, plan, state, problem, writtenAt }) => ({
    ...planned,
    change: { ...planned.change, ref: { ...planned.change.ref, id: recordId } },
    plan,
    plannedId: planned.change.ref.id,
    writtenAt,
    state,
    problem,
  }));
}

/** A write that its system took, with the record under its real id. */
export interface WrittenRecord {
  readonly run: string;
  readonly ref: RecordRef;
  readonly planned: PlannedWrite;
}

/** Returns what runs have written, in the order of the runs and of their plans, at most so many. */
export async function writtenBy(
  runner: Runner,
  runIds: readonly string[],
  most: number,
): Promise<readonly WrittenRecord[]> {
  const { rows } = await runner.query<WrittenRecord>(
    `SELECT run_id AS run, planned, json_build_object('system', system, 'recordType', record_type, 'id', record_id) AS ref
     FROM writes JOIN planned_writes USING (run_id, plan, seq)
     WHERE run_id = ANY ($1) AND state = 'written' ORDER BY run_id, plan, seq LIMIT $2`,
    [runIds, most],
  );
  return rows;
}

/** A field of a record. */
interface FieldOfRecord {
  readonly ref: RecordRef;
  readonly path: string;
}

/** A field of a record that a run wrote. */
interface WrittenField extends FieldOfRecord {
  readonly run: string;
}

/** What gave a field another value: a later run of ours, or an event that told of it. */
interface Changer {
  readonly run: string;
  readonly who: string;
  readonly at: string;
}

/** Returns a text that is the same for the same field of the same record. */
export function fieldKey({ ref, path }: FieldOfRecord): string {
  return JSON.stringify([refKey(ref), path]);
}

/** Returns what changed fields since their runs, by `fieldKey`: a later write of ours or an event, whichever came last. */
export async function changedSince(
  runner: Runner,
  fields: readonly WrittenField[],
): Promise<ReadonlyMap<string, Changer>> {
  if (fields.length === 0) return new Map();
  const { rows } = await runner.query<Changer & { place: number }>(
    `SELECT place, latest.* FROM
       unnest($1::bigint[], $2::text[], $3::text[], $4::text[], $5::text[]) WITH ORDINALITY AS asked (run, system, type, id, path, place),
       LATERAL (
         SELECT run_id AS run, written_at AS at,
           coalesce((SELECT string_agg(rule->>'name', ', ') FROM jsonb_array_elements(planned->'rules') AS rule),
             'what was taken back') AS who
         FROM writes JOIN planned_writes USING (run_id, plan, seq)
         WHERE (system, record_type, record_id) = (asked.system, asked.type, asked.id)
           AND run_id > asked.run AND state = 'written'
           AND planned->'change'->'edits' @> jsonb_build_array(jsonb_build_object('path', asked.path))
         UNION ALL
         SELECT id AS run, received_at AS at, 'somebody in ' || inbox.system AS who
         FROM inbox JOIN runs USING (id)
         WHERE (inbox.system, record_type, record_id) = (asked.system, asked.type, asked.id)
           AND inbox.id > asked.run AND runs.event->'changed' ? asked.path AND ${tellsOfChange}
         ORDER BY run DESC LIMIT 1
       ) AS latest`,
    [
      fields.map(({ run }) => run),
      fields.map(({ ref }) => ref.system),
      fields.map(({ ref }) => ref.recordType),
      fields.map(({ ref }) => ref.id),
      fields.map(({ path }) => path),
    ],
  );
  return new Map(
    rows.flatMap(({ place, ...changer }): [string, Changer][] => {
      const field = fields[Number(place) - 1];
      return field ? [[fieldKey(field), changer]] : [];
    }),
  );
}

/** A record that a run wrote. */
export interface WrittenRecord {
  readonly system: string;
  readonly recordType: string;
  readonly id: string;
  readonly created: boolean;
}

/** Returns the records that runs wrote, by run, in the order in which they were planned. */
export async function recordsWrittenBy(
  runner: Runner,
  runs: readonly string[],
): Promise<ReadonlyMap<string, readonly WrittenRecord[]>> {
  const { rows } = await runner.query<{ run: string; written: WrittenRecord[] }>(
    `SELECT run_id::text AS run, json_agg(json_build_object('system', system, 'recordType', record_type, 'id', record_id,
       'created', planned_id IS NOT NULL) ORDER BY plan, seq) AS written
     FROM writes WHERE run_id = ANY ($1::bigint[]) AND state = 'written' GROUP BY run_id`,
    [runs],
  );
  return new Map(rows.map(({ run, written }) => [run, written]));
}

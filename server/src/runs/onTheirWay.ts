import { refKey, type FieldEdit, type JsonObject, type RecordRef } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import type { FlyingWrite } from '../images/images';

/**
 * Writes of ours whose results are not known yet. An event of such a record may be that of the write, and could not be told from
 * somebody else's change. A record that is being created has no id yet, so that it may be any of its type. What a killed worker
 * left on its way counts for half a minute.
 */
export interface OnTheirWay {
  /** By record. */
  readonly edits: ReadonlyMap<string, FlyingWrite>;
  /** Record types of which one is being created: as `system/type`. */
  readonly creating: ReadonlySet<string>;
}

/**
 * Returns the writes of ours to these records that were sent and are not settled; those of one run can be left out: what a run sent
 * before it was broken off, it sends again.
 */
export async function writesOnTheirWay(
  runner: Runner,
  refs: readonly RecordRef[],
  exceptRun?: string,
): Promise<OnTheirWay> {
  const { rows } = await runner.query<
    RecordRef & { readonly edits: FieldEdit[] | null; readonly before: JsonObject | null }
  >(
    `SELECT system, record_type AS "recordType", record_id AS id,
       -- A removal gives no field a value.
       CASE WHEN planned IS NOT NULL THEN coalesce(planned->'change'->'edits', '[]') END AS edits, planned->'before' AS before
     FROM (
       SELECT system, record_type, record_id,
         (SELECT planned FROM planned_writes AS plan
          WHERE (plan.run_id, plan.plan, plan.seq) = (flights.run_id, flights.plan, flights.seq)) AS planned
       FROM flights
       WHERE (system, record_type, record_id) IN (SELECT * FROM unnest($1::text[], $2::text[], $3::text[]))
         AND NOT creates AND sent_at > now() - interval '30 seconds' AND run_id IS DISTINCT FROM $4
       UNION ALL
       SELECT DISTINCT system, record_type, NULL, NULL::jsonb FROM flights
       WHERE (system, record_type) IN (SELECT * FROM unnest($1::text[], $2::text[]))
         AND creates AND sent_at > now() - interval '30 seconds' AND run_id IS DISTINCT FROM $4
     ) AS flying`,
    [
      refs.map(({ system }) => system),
      refs.map(({ recordType }) => recordType),
      refs.map(({ id }) => id),
      exceptRun ?? null,
    ],
  );
  return {
    edits: new Map(
      rows.flatMap(({ edits, before, ...row }): [string, FlyingWrite][] =>
        edits && before ? [[refKey(row), { edits, before }]] : [],
      ),
    ),
    creating: new Set(
      rows.filter(({ edits }) => !edits).map(({ system, recordType }) => `${system}/${recordType}`),
    ),
  };
}

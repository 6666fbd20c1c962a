import { refKey, type FieldEdit, type JsonObject, type RecordRef } from '@vast-knot/core';
import { prepared, type Runner } from '../db/pool';
import type { FlyingWrite } from '../images/images';

/**
 * Writes of ours whose results are not known yet. An event of such a record may be that of the write, and could not be told from
 * somebody else's change. A record that is being created has no id yet, so that it may be any of its type. What a killed worker
 * left on its way counts for half a minute.
 */
export interface OnTheirWay {
  /** By record. */
  readonly edits: ReadonlyMap<string, FlyingWrite>;
  /** The records of whose type one is being created. */
  readonly creating: ReadonlySet<string>;
}

/** A record, and the run whose own writes do not count: what a run sent before it was broken off, it sends again. */
interface AskedRecord {
  readonly ref: RecordRef;
  readonly exceptRun?: string;
}

const onTheirWayStatement = prepared(
  'on their way',
  `WITH asked AS MATERIALIZED (
       SELECT * FROM unnest($1::text[], $2::text[], $3::text[], $4::bigint[]) AS asked (system, record_type, record_id, run)
     )
     SELECT system, record_type AS "recordType", record_id AS id,
       -- A removal gives no field a value.
       CASE WHEN planned IS NOT NULL THEN coalesce(planned->'change'->'edits', '[]') END AS edits, planned->'before' AS before
     FROM (
       SELECT asked.system, asked.record_type, asked.record_id,
         (SELECT planned FROM planned_writes AS plan
          WHERE (plan.run_id, plan.plan, plan.seq) = (flights.run_id, flights.plan, flights.seq)) AS planned
       FROM asked JOIN flights USING (system, record_type, record_id)
       WHERE NOT creates AND sent_at > now() - interval '30 seconds' AND run_id IS DISTINCT FROM asked.run
       UNION ALL
       SELECT system, record_type, record_id, NULL::jsonb FROM asked
       WHERE EXISTS (SELECT 1 FROM flights WHERE (flights.system, flights.record_type) = (asked.system, asked.record_type)
         AND creates AND sent_at > now() - interval '30 seconds' AND run_id IS DISTINCT FROM asked.run)
     ) AS flying`,
);

/** Returns the writes of ours to these records that were sent and are not settled, by the keys of the records. */
export async function writesOnTheirWay(runner: Runner, asked: readonly AskedRecord[]): Promise<OnTheirWay> {
  const { rows } = await runner.query<
    RecordRef & { readonly edits: FieldEdit[] | null; readonly before: JsonObject | null }
  >(
    onTheirWayStatement([
      asked.map(({ ref }) => ref.system),
      asked.map(({ ref }) => ref.recordType),
      asked.map(({ ref }) => ref.id),
      asked.map(({ exceptRun }) => exceptRun ?? null),
    ]),
  );
  return {
    edits: new Map(
      rows.flatMap(({ edits, before, ...row }): [string, FlyingWrite][] =>
        edits && before ? [[refKey(row), { edits, before }]] : [],
      ),
    ),
    creating: new Set(rows.filter(({ edits }) => !edits).map(refKey)),
  };
}

import { refKey, type FieldEdit, type JsonObject, type RecordImage, type RecordRef } from '@vast-knot/core';
import type { Runner } from '../db/pool';

/** The image of a record, with the record that it is of. */
export interface KnownImage extends RecordImage {
  readonly ref: RecordRef;
}

/** A write of ours that was sent, and whose result is not known yet. */
export interface FlyingWrite {
  readonly edits: readonly FieldEdit[];
  readonly before: JsonObject;
}

/** The images of records, locked in one order everywhere, so that two transactions never wait for each other. */
export async function readImages(
  runner: Runner,
  refs: readonly RecordRef[],
): Promise<Map<string, KnownImage>> {
  const { rows } = await runner.query<RecordImage & RecordRef>(
    `SELECT system, record_type AS "recordType", record_id AS id, record, echoes FROM images
     WHERE (system, record_type, record_id) IN (SELECT * FROM unnest($1::text[], $2::text[], $3::text[])) AND NOT removed
     ORDER BY system, record_type, record_id FOR UPDATE`,
    columnsOf(refs),
  );
  return new Map(
    rows.map((row) => [refKey(row), { ref: refOf(row), record: row.record, echoes: row.echoes }]),
  );
}

/** Keeps images that were made anew, one of a record. */
export async function keepImages(runner: Runner, all: readonly KnownImage[]): Promise<void> {
  if (all.length === 0) return;
  await runner.query(
    `INSERT INTO images (system, record_type, record_id, record, echoes)
     SELECT * FROM json_to_recordset($1::json) AS image (system text, type text, id text, record jsonb, echoes jsonb)
     ORDER BY system, type, id
     ON CONFLICT (system, record_type, record_id) DO UPDATE
       SET record = EXCLUDED.record, echoes = EXCLUDED.echoes, removed = false`,
    [
      JSON.stringify(
        all.map(({ ref, record, echoes }) => ({
          system: ref.system,
          type: ref.recordType,
          id: ref.id,
          record,
          echoes,
        })),
      ),
    ],
  );
}

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

export async function writesOnTheirWay(runner: Runner, refs: readonly RecordRef[]): Promise<OnTheirWay> {
  const { rows } = await runner.query<
    RecordRef & { readonly edits: FieldEdit[] | null; readonly before: JsonObject | null }
  >(
    `SELECT system, record_type AS "recordType", record_id AS id, planned->'edits' AS edits, planned->'before' AS before
     FROM (
       SELECT system, record_type, record_id,
         (SELECT planned FROM planned_writes AS plan
          WHERE (plan.run_id, plan.plan, plan.seq) = (flights.run_id, flights.plan, flights.seq)) AS planned
       FROM flights
       WHERE (system, record_type, record_id) IN (SELECT * FROM unnest($1::text[], $2::text[], $3::text[]))
         AND NOT creates AND sent_at > now() - interval '30 seconds'
       UNION ALL
       SELECT DISTINCT system, record_type, NULL, NULL::jsonb FROM flights
       WHERE (system, record_type) IN (SELECT * FROM unnest($1::text[], $2::text[]))
         AND creates AND sent_at > now() - interval '30 seconds'
     ) AS flying`,
    columnsOf(refs),
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

function columnsOf(refs: readonly RecordRef[]): string[][] {
  return [
    refs.map(({ system }) => system),
    refs.map(({ recordType }) => recordType),
    refs.map(({ id }) => id),
  ];
}

function refOf({ system, recordType, id }: RecordRef): RecordRef {
  return { system, recordType, id };
}

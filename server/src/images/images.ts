import {
  refKey,
  type FieldEdit,
  type JsonObject,
  type RecordImage,
  type RecordRef,
  type StoredRecord,
} from '@vast-knot/core';
import { prepared, type Pool, type Runner, type Statement } from '../db/pool';
import type { QueryArrayResult } from 'pg';
import { digestOf } from './digest';

/** The image of a record, with the record that it is of. */
export interface KnownImage extends RecordImage {
  readonly ref: RecordRef;
  /** We removed it ourselves; the event that tells so has not come yet. */
  readonly removedByUs?: boolean;
  /** What stands for a record that is as it; undefined where that is not known. */
  readonly digest?: number;
}

/** A write of ours that was sent, and whose result is not known yet. */
export interface FlyingWrite {
  readonly edits: readonly FieldEdit[];
  readonly before: JsonObject;
}

interface ImageRow extends RecordRef {
  readonly record: JsonObject;
  readonly echoes: RecordImage['echoes'];
  readonly toldAt: Date | null;
  readonly gone: boolean;
  readonly removed: boolean;
  readonly digest: string | null;
}

const columns = `system, record_type AS "recordType", record_id AS id, record, echoes, told_at AS "toldAt", gone, removed, digest`;
const ofRefs =
  '(system, record_type, record_id) IN (SELECT * FROM unnest($1::text[], $2::text[], $3::text[]))';

const lockStatement = prepared(
  'lock images',
  `SELECT ${columns} FROM images WHERE ${ofRefs} ORDER BY system, record_type, record_id FOR UPDATE`,
);

/** Returns the images of records, locked in one order everywhere, so that two transactions never wait for each other. */
export async function readImages(
  runner: Runner,
  refs: readonly RecordRef[],
): Promise<Map<string, KnownImage>> {
  const { rows } = await runner.query<ImageRow>(lockStatement(columnsOf(refs)));
  return byKey(rows);
}

/** As `readImages`, to be looked at only: nothing is locked. */
export async function peekImages(
  runner: Runner,
  refs: readonly RecordRef[],
): Promise<Map<string, KnownImage>> {
  const { rows } = await runner.query<ImageRow>(
    `SELECT ${columns} FROM images WHERE ${ofRefs}`,
    columnsOf(refs),
  );
  return byKey(rows);
}

/** So many digests are read at a time. */
const digestsAtOnce = 10_000;

/** Gives the ids of the records of a type of which there is an image, each with what stands for it; null where that is not known. */
export async function* digestsOf(
  pool: Pool,
  { system, recordType }: Pick<RecordRef, 'system' | 'recordType'>,
): AsyncGenerator<readonly (readonly [id: string, digest: number | null])[]> {
  let after: string | undefined = '';
  while (after !== undefined) {
    const { rows }: QueryArrayResult<[id: string, digest: string | null]> = await pool.query({
      name: 'digests of images',
      text: `SELECT record_id, digest FROM images
        WHERE system = $1 AND record_type = $2 AND record_id > $3 AND NOT gone AND NOT removed
        ORDER BY system, record_type, record_id LIMIT $4`,
      values: [system, recordType, after, digestsAtOnce],
      rowMode: 'array',
    });
    yield rows.map(([id, digest]) => [id, digest === null ? null : Number(digest)]);
    after = rows.length < digestsAtOnce ? undefined : rows.at(-1)?.[0];
  }
}

/** Notes what stands for records that are as their images, in another form; of images that changed meanwhile, nothing. */
export async function noteDigests(
  runner: Runner,
  { system, recordType }: Pick<RecordRef, 'system' | 'recordType'>,
  noted: readonly { readonly id: string; readonly before: number | null; readonly digest: number }[],
): Promise<void> {
  if (noted.length === 0) return;
  await runner.query(
    `UPDATE images SET digest = noted.digest
     FROM json_to_recordset($3::json) AS noted (id text, before bigint, digest bigint)
     WHERE system = $1 AND record_type = $2 AND record_id = noted.id AND images.digest IS NOT DISTINCT FROM noted.before`,
    [system, recordType, JSON.stringify(noted)],
  );
}

function byKey(rows: readonly ImageRow[]): Map<string, KnownImage> {
  return new Map(rows.map((row) => [refKey(row), imageOf(row)]));
}

function imageOf({
  system,
  recordType,
  id,
  record,
  echoes,
  toldAt,
  gone,
  removed,
  digest,
}: ImageRow): KnownImage {
  return {
    ref: { system, recordType, id },
    record,
    echoes,
    ...(toldAt && { toldAt: toldAt.toISOString() }),
    ...((gone || removed) && { gone: true }),
    ...(removed && { removedByUs: true }),
    ...(digest !== null && { digest: Number(digest) }),
  };
}

const keepStatement = prepared(
  'keep images',
  `INSERT INTO images (system, record_type, record_id, record, digest, echoes, told_at, gone, gone_at)
     SELECT *, CASE WHEN gone THEN now() END FROM json_to_recordset($1::json)
       AS image (system text, type text, id text, record jsonb, digest bigint, echoes jsonb, told_at timestamptz, gone boolean)
     ORDER BY system, type, id
     ON CONFLICT (system, record_type, record_id) DO UPDATE
       SET record = EXCLUDED.record, digest = EXCLUDED.digest, echoes = EXCLUDED.echoes, told_at = EXCLUDED.told_at, gone = EXCLUDED.gone, removed = false,
         gone_at = EXCLUDED.gone_at`,
);

/** Keeps images that were made anew, one of a record. */
export async function keepImages(runner: Runner, all: readonly KnownImage[]): Promise<void> {
  if (all.length > 0) await runner.query(keepingImages(all));
}

/** As `keepImages`, to be run with other statements. */
export function keepingImages(all: readonly KnownImage[]): Statement {
  return keepStatement([
    JSON.stringify(
      all.map(({ ref, record, echoes, toldAt, gone = false }) => ({
        system: ref.system,
        type: ref.recordType,
        id: ref.id,
        record,
        digest: digestOf(record),
        echoes,
        told_at: toldAt,
        gone,
      })),
    ),
  ]);
}

/** Keeps records that are seen for the first time; those that have an image are left alone. Returns how many were new. */
export async function keepFirstSeen(runner: Runner, records: readonly StoredRecord[]): Promise<number> {
  const { rowCount } = await runner.query(
    `INSERT INTO images (system, record_type, record_id, record, digest)
     SELECT system, type, id, record, digest
     FROM json_to_recordset($1::json) AS seen (system text, type text, id text, record jsonb, digest bigint)
     ON CONFLICT DO NOTHING`,
    [
      JSON.stringify(
        records.map(({ ref, record }) => ({
          system: ref.system,
          type: ref.recordType,
          id: ref.id,
          record,
          digest: digestOf(record),
        })),
      ),
    ],
  );
  return rowCount ?? 0;
}

/** Forgets all that was seen of the records of a system. */
export async function forgetImages(runner: Runner, system: string): Promise<void> {
  await runner.query('DELETE FROM images WHERE system = $1', [system]);
}

/** Marks records as removed by ourselves: the events that tell so, when they come, tell nothing new. */
export async function markRemoved(runner: Runner, refs: readonly RecordRef[]): Promise<void> {
  if (refs.length === 0) return;
  await runner.query(
    `INSERT INTO images (system, record_type, record_id, record, removed, gone_at)
     SELECT system, type, id, '{}', true, now() FROM unnest($1::text[], $2::text[], $3::text[]) AS gone (system, type, id)
     ORDER BY system, type, id
     ON CONFLICT (system, record_type, record_id) DO UPDATE SET removed = true, gone_at = now()`,
    columnsOf(refs),
  );
}

function columnsOf(refs: readonly RecordRef[]): string[][] {
  return [
    refs.map(({ system }) => system),
    refs.map(({ recordType }) => recordType),
    refs.map(({ id }) => id),
  ];
}

import type { ArrivalWay, FileHead, Layout } from '@vast-knot/core';
import type { Client, Pool, Runner } from '../db/pool';

/** A file that came, as it is kept. */
export interface KeptArrival {
  readonly id: string;
  readonly name: string;
  readonly bytes: number;
  readonly digest: string;
  readonly way: ArrivalWay;
  readonly sentBy: string;
  readonly cameAt: Date;
  readonly system: string | null;
  readonly recordType: string | null;
  readonly layout: Layout | null;
  readonly revision: number;
  readonly head: FileHead;
  readonly mends: Mends;
  readonly look: string | null;
  readonly lookedRevision: number | null;
  readonly applying: string | null;
}

/** Values that were typed in the place of those of a file: by row, then by field. */
export type Mends = Readonly<Record<string, Readonly<Record<string, string>>>>;

const columns = `id, name, bytes::float8 AS bytes, digest, way, sent_by AS "sentBy", came_at AS "cameAt", system,
  record_type AS "recordType", layout, revision, head, mends, look, looked_revision AS "lookedRevision", applying`;

/** A file of which the parts are about to come. */
interface NewArrival {
  readonly id: string;
  readonly name: string;
  readonly way: ArrivalWay;
  readonly by: string;
}

export async function beginArrival(runner: Runner, { id, name, way, by }: NewArrival): Promise<void> {
  await runner.query('INSERT INTO arrivals (id, name, way, sent_by) VALUES ($1, $2, $3, $4)', [
    id,
    name,
    way,
    by,
  ]);
}

export async function keepPart(runner: Runner, id: string, n: number, bytes: Uint8Array): Promise<void> {
  await runner.query('INSERT INTO arrival_parts (arrival, n, bytes) VALUES ($1, $2, $3)', [id, n, bytes]);
}

/** What is known of a file once it is here as a whole. */
interface WholeArrival {
  readonly bytes: number;
  readonly digest: string;
  readonly head: FileHead;
  readonly system: string | null;
  readonly recordType: string | null;
  readonly layout: Layout | null;
}

/** Notes that a file is here as a whole: only then it is shown. */
export async function keepWhole(
  runner: Runner,
  id: string,
  { bytes, digest, head, system, recordType, layout }: WholeArrival,
): Promise<void> {
  await runner.query(
    `UPDATE arrivals SET bytes = $2, digest = $3, head = $4, system = $5, record_type = $6, layout = $7 WHERE id = $1`,
    [id, bytes, digest, JSON.stringify(head), system, recordType, layout && JSON.stringify(layout)],
  );
}

export async function removeArrival(runner: Runner, id: string): Promise<void> {
  await runner.query('DELETE FROM arrivals WHERE id = $1', [id]);
}

/** How long a file may be on its way, and how long files are kept. */
const [comingFor, keptFor] = ['1 hour', '400 days'];

/** Forgets files that never came whole, and those that are very old. Files of which rows are under way stay. */
export async function clearArrivals(runner: Runner): Promise<void> {
  await runner.query(
    `DELETE FROM arrivals WHERE (digest IS NULL AND came_at < now() - interval '${comingFor}')
       OR (came_at < now() - interval '${keptFor}' AND NOT EXISTS (
         SELECT 1 FROM jobs JOIN arrival_rows AS kept ON kept.chosen_by = jobs.id
         WHERE kept.arrival = arrivals.id AND jobs.finished_at IS NULL))`,
  );
}

/** Returns the bytes of a file, part by part. */
export async function* partsOf(pool: Pool, id: string): AsyncGenerator<Uint8Array> {
  for (let n = 0; ; n++) {
    const { rows } = await pool.query<{ bytes: Buffer }>(
      'SELECT bytes FROM arrival_parts WHERE arrival = $1 AND n = $2',
      [id, n],
    );
    const [part] = rows;
    if (!part) return;
    yield part.bytes;
  }
}

export async function readArrival(runner: Runner, id: string): Promise<KeptArrival | undefined> {
  const { rows } = await runner.query<KeptArrival>(
    `SELECT ${columns} FROM arrivals WHERE id = $1 AND digest IS NOT NULL`,
    [id],
  );
  return rows[0];
}

/** Returns the latest files, newest first, beginning before one of them. */
export async function listArrivals(
  runner: Runner,
  { before, limit }: { readonly before: string | null; readonly limit: number },
): Promise<readonly KeptArrival[]> {
  const { rows } = await runner.query<KeptArrival>(
    `SELECT ${columns} FROM arrivals WHERE digest IS NOT NULL
       AND ($1::uuid IS NULL OR (came_at, id) < (SELECT came_at, id FROM arrivals WHERE id = $1))
     ORDER BY came_at DESC, id DESC LIMIT $2`,
    [before, limit],
  );
  return rows;
}

/** How a file is laid out from now on. */
interface LaidOutAs {
  /** Null until it is said what its records become. */
  readonly system: string | null;
  readonly recordType: string | null;
  readonly layout: Layout;
  readonly head: FileHead;
}

/** How files of a kind are laid out, for which record type. */
interface UsualLayout {
  readonly system: string;
  readonly recordType: string;
  readonly layout: Layout;
  readonly by: string;
}

/** Keeps how a file is laid out, where nobody changed it since `revision`. Returns whether it was kept. */
export async function keepLayout(
  runner: Runner,
  id: string,
  revision: number,
  { system, recordType, layout, head }: LaidOutAs,
): Promise<boolean> {
  const { rowCount } = await runner.query(
    `UPDATE arrivals SET system = $3, record_type = $4, layout = $5, head = $6, revision = revision + 1
     WHERE id = $1 AND revision = $2`,
    [id, revision, system, recordType, JSON.stringify(layout), JSON.stringify(head)],
  );
  return rowCount === 1;
}

/** Keeps what was typed in the place of values of a row; blank texts are values, null takes a mend back. */
export async function mendRow(
  runner: Runner,
  id: string,
  at: number,
  mends: Readonly<Record<string, string | null>>,
): Promise<void> {
  await runner.query(
    `UPDATE arrivals SET revision = revision + 1, mends = mends ||
       jsonb_build_object($2::text, jsonb_strip_nulls(coalesce(mends->$2, '{}') || $3::jsonb)) WHERE id = $1`,
    [id, String(at), JSON.stringify(mends)],
  );
}

/** Returns how files of a kind are laid out as a rule; undefined where nobody said. */
export async function usualLayouts(
  runner: Runner,
  kind: string,
): Promise<readonly { readonly system: string; readonly recordType: string; readonly layout: Layout }[]> {
  const { rows } = await runner.query<{ system: string; recordType: string; layout: Layout }>(
    'SELECT system, record_type AS "recordType", layout FROM layouts WHERE kind = $1 ORDER BY changed_at DESC',
    [kind],
  );
  return rows;
}

export async function keepUsualLayout(
  runner: Runner,
  { system, recordType, layout, by }: UsualLayout,
): Promise<void> {
  await runner.query(
    `INSERT INTO layouts (system, record_type, kind, layout, changed_by) VALUES ($1, $2, $3, $4, $5)
     ON CONFLICT (system, record_type, kind) DO UPDATE SET layout = EXCLUDED.layout, changed_by = EXCLUDED.changed_by, changed_at = now()`,
    [system, recordType, layout.file.kind, JSON.stringify(layout), by],
  );
}

/** Holds a file until the end of the transaction, so that whoever else wants to do something to it waits. */
export async function lockArrival(runner: Runner, id: string): Promise<void> {
  await runner.query('SELECT 1 FROM arrivals WHERE id = $1 FOR UPDATE', [id]);
}

/** Held while it is decided whether a content is applied by itself, so that of two files with it one is. */
const contentLock = 4606;

/** Returns whether another file with the same content was applied, or is to be. Nobody else decides so until the end of the transaction. */
export async function isAppliedElsewhere(
  client: Client,
  { id, digest, system, recordType }: KeptArrival,
): Promise<boolean> {
  await client.query('SELECT pg_advisory_xact_lock($1, hashtext($2))', [contentLock, digest]);
  const { rowCount } = await client.query(
    `SELECT 1 FROM arrivals WHERE digest = $1 AND id <> $2 AND system = $3 AND record_type = $4 AND applying IS NOT NULL LIMIT 1`,
    [digest, id, system, recordType],
  );
  return rowCount !== 0;
}

/** Notes which job applies rows of a file. */
export async function noteApplying(runner: Runner, id: string, job: string): Promise<void> {
  await runner.query('UPDATE arrivals SET applying = $2 WHERE id = $1', [id, job]);
}

/** Notes which job looks at a file, and what it sees of it. */
export async function noteLook(runner: Runner, id: string, job: string, revision: number): Promise<void> {
  await runner.query('UPDATE arrivals SET look = $2, looked_revision = $3 WHERE id = $1', [
    id,
    job,
    revision,
  ]);
}

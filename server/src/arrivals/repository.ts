import type {
  ArrivalFilter,
  ArrivalRow,
  ArrivalSummary,
  ArrivalView,
  ArrivalWay,
  FileHead,
  JsonObject,
  Layout,
  RowJudged,
  RowStanding,
} from '@vast-knot/core';
import { rowStandings } from '@vast-knot/core';
import type { Pool, Runner } from '../db/pool';
import { storable } from '../db/storable';
import { readJobs } from '../jobs/repository';

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
}

/** Values that were typed in the place of those of a file: by row, then by field. */
export type Mends = Readonly<Record<string, Readonly<Record<string, string>>>>;

const columns = `id, name, bytes::float8 AS bytes, digest, way, sent_by AS "sentBy", came_at AS "cameAt", system,
  record_type AS "recordType", layout, revision, head, mends, look, looked_revision AS "lookedRevision"`;

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
  readonly system: string;
  readonly recordType: string;
  readonly layout: Layout;
  readonly head: FileHead;
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
  { system, recordType, layout, by }: Omit<LaidOutAs, 'head'> & { readonly by: string },
): Promise<void> {
  await runner.query(
    `INSERT INTO layouts (system, record_type, kind, layout, changed_by) VALUES ($1, $2, $3, $4, $5)
     ON CONFLICT (system, record_type, kind) DO UPDATE SET layout = EXCLUDED.layout, changed_by = EXCLUDED.changed_by, changed_at = now()`,
    [system, recordType, layout.file.kind, JSON.stringify(layout), by],
  );
}

/** Notes which job looks at a file, and what it sees of it. */
export async function noteLook(runner: Runner, id: string, job: string, revision: number): Promise<void> {
  await runner.query('UPDATE arrivals SET look = $2, looked_revision = $3 WHERE id = $1', [
    id,
    job,
    revision,
  ]);
}

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

const isWritten = `run.state = 'done' OR (kept.run_id IS NOT NULL AND run.id IS NULL)`;
const isUnderWay = `run.state = 'waiting' OR (kept.chosen_by IS NOT NULL AND kept.run_id IS NULL AND job.id IS NOT NULL)`;
const withRun = `LEFT JOIN inbox AS run ON run.id = kept.run_id
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

interface OutcomeRow {
  readonly arrival: string;
  readonly chosen: number;
  readonly written: number;
  readonly failed: number;
  readonly underWay: number;
  readonly applying: string | null;
}

/** Returns files as lists show them, with how far their jobs have come. */
export async function summariesOf(
  runner: Runner,
  arrivals: readonly KeptArrival[],
): Promise<readonly ArrivalSummary[]> {
  const ids = arrivals.map(({ id }) => id);
  const { rows: counts } = await runner.query<{ arrival: string; standing: RowStanding; count: number }>(
    `SELECT arrival, standing, count(*)::float8 AS count FROM arrival_rows WHERE arrival = ANY ($1) GROUP BY 1, 2`,
    [ids],
  );
  // Ids of jobs count upwards with time.
  const { rows: outcomeRows } = await runner.query<OutcomeRow>(
    `SELECT arrival, count(*)::float8 AS chosen, (count(*) FILTER (WHERE ${isWritten}))::float8 AS written,
       (count(*) FILTER (WHERE run.state = 'failed'))::float8 AS failed, (count(*) FILTER (WHERE ${isUnderWay}))::float8 AS "underWay",
       max(chosen_by::text) AS applying
     FROM arrival_rows AS kept ${withRun} WHERE arrival = ANY ($1) AND chosen_by IS NOT NULL GROUP BY 1`,
    [ids],
  );
  const wanted = [...arrivals.map(({ look }) => look), ...outcomeRows.map(({ applying }) => applying)];
  const jobs = await readJobs(
    runner,
    wanted.flatMap((job) => job ?? []),
  );
  return arrivals.map(({ id, name, bytes, way, sentBy, cameAt, system, recordType, head, look }) => {
    const outcome = outcomeRows.find(({ arrival }) => arrival === id);
    const of = counts.filter(({ arrival }) => arrival === id);
    return {
      id,
      name,
      bytes,
      way,
      sentBy,
      cameAt: cameAt.toISOString(),
      system,
      recordType,
      problem: head.problem,
      counts: Object.fromEntries(
        rowStandings.map((standing) => [standing, of.find((row) => row.standing === standing)?.count ?? 0]),
      ) as Record<RowStanding, number>,
      chosen: outcome?.chosen ?? 0,
      written: outcome?.written ?? 0,
      failed: outcome?.failed ?? 0,
      underWay: outcome?.underWay ?? 0,
      look: (look !== null && jobs.get(look)) || null,
      applying: (outcome?.applying ? jobs.get(outcome.applying) : undefined) ?? null,
    };
  });
}

/** Returns a file with all that its page shows. */
export async function viewOf(runner: Runner, arrival: KeptArrival): Promise<ArrivalView> {
  const [summary] = await summariesOf(runner, [arrival]);
  if (!summary) throw new RangeError('The file is gone.');
  const { layout, revision, head, lookedRevision, digest, id } = arrival;
  const { rows: twice } = await runner.query<{ count: number }>(
    'SELECT count(*)::float8 AS count FROM arrival_rows WHERE arrival = $1 AND same_key_as IS NOT NULL',
    [id],
  );
  const { rows: same } = await runner.query<NonNullable<ArrivalView['sameAs']>>(
    `SELECT other.id, other.name, to_json(other.came_at) #>> '{}' AS "cameAt", count(kept.at)::float8 AS applied
     FROM arrivals AS other JOIN arrival_rows AS kept ON kept.arrival = other.id AND kept.run_id IS NOT NULL
     WHERE other.digest = $1 AND other.id <> $2 GROUP BY other.id ORDER BY other.came_at DESC LIMIT 1`,
    [digest, id],
  );
  return {
    ...summary,
    layout,
    revision,
    head,
    changedSince: lookedRevision !== null && lookedRevision !== revision,
    twice: twice[0]?.count ?? 0,
    sameAs: same[0] ?? null,
  };
}

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

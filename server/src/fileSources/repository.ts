import type { FileSource, FileSourceView } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import type { Seal } from '../db/seal';

/** Where the secret of a source is sealed for. */
export const ofFileSource = (id: string) => `file source ${id}`;

const viewColumns = `source.id, source.definition, source.revision, source.sealed IS NOT NULL AS "hasSecret",
  source.changed_by AS "changedBy", to_json(source.looked_at) #>> '{}' AS "lookedAt", source.problem,
  to_json(source.missing_since) #>> '{}' AS "missingSince",
  (SELECT json_build_object('id', id, 'name', name, 'cameAt', came_at) FROM arrivals
   WHERE arrivals.source = source.id AND digest IS NOT NULL ORDER BY came_at DESC LIMIT 1) AS last`;

type ViewRow = Omit<FileSourceView, keyof FileSource> & { readonly definition: FileSource };

const viewOf = ({ definition, ...row }: ViewRow): FileSourceView => ({ ...definition, ...row });

/** Returns the sources in the order of their names. */
export async function listSources(runner: Runner): Promise<readonly FileSourceView[]> {
  const { rows } = await runner.query<ViewRow>(
    `SELECT ${viewColumns} FROM file_sources AS source ORDER BY definition->>'name', id`,
  );
  return rows.map(viewOf);
}

export async function readSource(runner: Runner, id: string): Promise<FileSourceView | undefined> {
  const { rows } = await runner.query<ViewRow>(
    `SELECT ${viewColumns} FROM file_sources AS source WHERE id = $1`,
    [id],
  );
  return rows[0] && viewOf(rows[0]);
}

/** A source that is kept, and by whom. */
interface KeptBy {
  readonly id: string;
  readonly definition: FileSource;
  /** What its header carries; undefined leaves it as it is, blank takes it away. */
  readonly secret: string | undefined;
  readonly by: string;
}

export async function addSource(
  runner: Runner,
  seal: Seal,
  { id, definition, secret, by }: KeptBy,
): Promise<void> {
  await runner.query(
    'INSERT INTO file_sources (id, definition, sealed, changed_by) VALUES ($1, $2, $3, $4)',
    [id, JSON.stringify(definition), secret ? seal.seal(secret, ofFileSource(id)) : null, by],
  );
}

/** Changes a source where nobody did since `revision`. Returns whether it was changed. */
export async function changeSource(
  runner: Runner,
  seal: Seal,
  { id, definition, secret, by }: KeptBy,
  revision: number,
): Promise<boolean> {
  const { rowCount } = await runner.query(
    `UPDATE file_sources SET revision = revision + 1, changed_by = $3, changed_at = now(), definition = $2,
       expected_since = CASE WHEN definition->'expected' IS DISTINCT FROM $2::jsonb->'expected' THEN now() ELSE expected_since END,
       missing_since = CASE WHEN definition->'expected' IS DISTINCT FROM $2::jsonb->'expected' THEN NULL ELSE missing_since END,
       sealed = CASE WHEN $5 THEN $4 ELSE sealed END
     WHERE id = $1 AND revision = $6`,
    [
      id,
      JSON.stringify(definition),
      by,
      secret ? seal.seal(secret, ofFileSource(id)) : null,
      secret !== undefined,
      revision,
    ],
  );
  return rowCount === 1;
}

/** Takes a source out. Files that came from it stay. Returns whether there was one. */
export async function removeSource(runner: Runner, id: string): Promise<boolean> {
  const { rowCount } = await runner.query('DELETE FROM file_sources WHERE id = $1', [id]);
  return rowCount === 1;
}

/** Returns what the header of a source carries; undefined where it carries nothing. */
export async function openSecret(runner: Runner, seal: Seal, id: string): Promise<string | undefined> {
  const { rows } = await runner.query<{ sealed: Buffer | null }>(
    'SELECT sealed FROM file_sources WHERE id = $1',
    [id],
  );
  const sealed = rows[0]?.sealed;
  return sealed ? seal.open(sealed, ofFileSource(id)) : undefined;
}

/** Notes how a look went. */
export async function noteLooked(runner: Runner, id: string, problem: string | null): Promise<void> {
  await runner.query('UPDATE file_sources SET looked_at = now(), problem = $2 WHERE id = $1', [
    id,
    problem?.slice(0, 1000) ?? null,
  ]);
}

/** Returns by which mark each file of a source was taken. */
export async function takenMarks(runner: Runner, id: string): Promise<ReadonlyMap<string, string>> {
  const { rows } = await runner.query<{ name: string; mark: string }>(
    'SELECT name, mark FROM file_sources_taken WHERE source = $1',
    [id],
  );
  return new Map(rows.map(({ name, mark }) => [name, mark]));
}

/** Forgets names that lie in a folder no more, a month after they were taken: a folder that is cleared would be remembered for ever. */
export async function forgetGone(runner: Runner, id: string, lying: readonly string[]): Promise<void> {
  await runner.query(
    `DELETE FROM file_sources_taken WHERE source = $1 AND name <> ALL ($2::text[]) AND taken_at < now() - interval '30 days'`,
    [id, lying],
  );
}

/** Notes that a file was taken, and from where it came. */
export async function noteTaken(
  runner: Runner,
  {
    source,
    name,
    mark,
    arrival,
  }: {
    readonly source: string;
    readonly name: string;
    readonly mark: string;
    readonly arrival: string | null;
  },
): Promise<void> {
  await runner.query(
    `WITH came AS (UPDATE arrivals SET source = $1 WHERE id = $4)
     INSERT INTO file_sources_taken (source, name, mark) VALUES ($1, $2, $3)
     ON CONFLICT (source, name) DO UPDATE SET mark = EXCLUDED.mark, taken_at = now()`,
    [source, name, mark, arrival],
  );
}

/** A source that expects files, and when the last one came. */
export interface Expecting {
  readonly id: string;
  readonly definition: FileSource;
  readonly since: Date;
  readonly lastCame: Date | null;
  readonly missing: Date | null;
}

export async function expectingSources(runner: Runner): Promise<readonly Expecting[]> {
  const { rows } = await runner.query<Expecting>(
    `SELECT id, definition, expected_since AS since, missing_since AS missing,
       (SELECT max(came_at) FROM arrivals WHERE arrivals.source = file_sources.id AND digest IS NOT NULL) AS "lastCame"
     FROM file_sources WHERE definition->'expected' <> 'null'`,
  );
  return rows;
}

export async function noteMissing(runner: Runner, id: string, since: Date | null): Promise<void> {
  await runner.query(
    'UPDATE file_sources SET missing_since = $2 WHERE id = $1 AND missing_since IS DISTINCT FROM $2',
    [id, since],
  );
}

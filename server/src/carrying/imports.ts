import type { ImportView } from '@vast-knot/core';
import type { Client, Runner } from '../db/pool';

/** What became of one thing that an import brought. */
export interface ImportedItem {
  readonly kind: 'system' | 'address' | 'table' | 'rule' | 'sample';
  readonly key: string;
  readonly name: string;
  /** Whether it was taken over; otherwise what is here stayed. */
  readonly took: boolean;
  /** How it stood before, as JSON; null where it was not there. */
  readonly before: unknown;
  /** What came, as text: how it last was in both environments. */
  readonly content: string;
  /** The version of a rule that runs since; null where none does. */
  readonly published: number | null;
}

interface NewImport {
  readonly id: string;
  readonly by: string;
  readonly files: readonly string[];
  readonly running: boolean;
  readonly items: readonly ImportedItem[];
}

/** Keeps that an import was done, with all that taking it back needs. */
export async function insertImport(
  client: Client,
  { id, by, files, running, items }: NewImport,
): Promise<void> {
  await client.query('INSERT INTO imports (id, by, files, running) VALUES ($1, $2, $3, $4)', [
    id,
    by,
    files,
    running,
  ]);
  await client.query(
    `INSERT INTO import_items (import_id, place, kind, key, name, took, before, content, published)
     SELECT $1, place, kind, key, name, took, before::jsonb, content, published
     FROM unnest($2::text[], $3::text[], $4::text[], $5::boolean[], $6::text[], $7::text[], $8::integer[])
       WITH ORDINALITY AS given (kind, key, name, took, before, content, published, place)`,
    [
      id,
      items.map(({ kind }) => kind),
      items.map(({ key }) => key),
      items.map(({ name }) => name),
      items.map(({ took }) => took),
      items.map(({ before }) => (before === null ? null : JSON.stringify(before))),
      items.map(({ content }) => content),
      items.map(({ published }) => published),
    ],
  );
}

/** Keeps two imports from going on at the same time, until the transaction ends. */
export async function lockImports(client: Client): Promise<void> {
  await client.query(`SELECT pg_advisory_xact_lock(hashtext('vast-knot imports'))`);
}

/** Returns how things last were in both environments, as text, by `kind key`: as the last import brought them that was not taken back. */
export async function lastInBoth(
  runner: Runner,
  items: readonly { readonly kind: string; readonly key: string }[],
): Promise<ReadonlyMap<string, string>> {
  const { rows } = await runner.query<{ kind: string; key: string; content: string }>(
    `SELECT DISTINCT ON (kind, key) kind, key, content FROM import_items JOIN imports ON id = import_id
     WHERE undone_at IS NULL AND (kind, key) IN (SELECT * FROM unnest($1::text[], $2::text[]))
     ORDER BY kind, key, at DESC`,
    [items.map(({ kind }) => kind), items.map(({ key }) => key)],
  );
  return new Map(rows.map(({ kind, key, content }) => [`${kind} ${key}`, content]));
}

/** Returns the imports, the last one first. */
export async function listImports(runner: Runner, id?: string): Promise<readonly ImportView[]> {
  const { rows } = await runner.query<ImportView>(
    `SELECT id, at, by, files, running,
       (SELECT coalesce(json_agg(json_build_object('kind', kind, 'key', key, 'name', name) ORDER BY place), '[]')
        FROM import_items WHERE import_id = id AND took) AS took,
       CASE WHEN undone_at IS NULL THEN NULL ELSE json_build_object('at', undone_at, 'by', undone_by) END AS undone
     FROM imports WHERE $1::uuid IS NULL OR id = $1 ORDER BY at DESC LIMIT 200`,
    [id ?? null],
  );
  return rows;
}

/** Returns what an import took over, the last first, and notes that it is taken back; undefined where it is not there or was before. */
export async function endImport(
  client: Client,
  id: string,
  by: string,
): Promise<readonly ImportedItem[] | undefined> {
  const { rowCount } = await client.query(
    'UPDATE imports SET undone_at = now(), undone_by = $2 WHERE id = $1 AND undone_at IS NULL',
    [id, by],
  );
  if (rowCount !== 1) return undefined;
  const { rows } = await client.query<ImportedItem>(
    `SELECT kind, key, name, took, before, content, published FROM import_items WHERE import_id = $1 AND took ORDER BY place DESC`,
    [id],
  );
  return rows;
}

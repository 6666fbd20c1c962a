import { v7 as uuid } from 'uuid';
import type {
  EarlierVersion,
  RemovedRule,
  Rule,
  RuleBody,
  RuleHistory,
  RuleStop,
  RuleVersion,
  RuleView,
} from '@vast-knot/core';
import { inTransaction, type Client, type Pool, type Runner } from '../db/pool';

const columns = `rules.id, draft, revision, folder, changed_at AS "changedAt", changed_by AS "changedBy",
  CASE WHEN paused_at IS NULL THEN NULL ELSE json_build_object('by', paused_by, 'at', paused_at) END AS paused,
  CASE WHEN published IS NULL THEN NULL ELSE json_build_object(
    'version', published, 'body', rule_versions.body, 'by', published_by, 'at', published_at, 'note', rule_versions.note) END AS published,
  (SELECT json_build_object('by', asked_by, 'at', asked_at, 'note', asked.note) FROM publishing_asked AS asked
   WHERE asked.rule_id = rules.id AND asked.revision = rules.revision) AS asked`;
const source = 'rules LEFT JOIN rule_versions ON rule_id = rules.id AND version = published';

export async function listRules(runner: Runner): Promise<RuleView[]> {
  const { rows } = await runner.query<RuleView>(
    `SELECT ${columns} FROM ${source} WHERE removed_at IS NULL ORDER BY position, rules.id`,
  );
  return rows;
}

export async function readRule(runner: Runner, id: string): Promise<RuleView | undefined> {
  const { rows } = await runner.query<RuleView>(
    `SELECT ${columns} FROM ${source} WHERE rules.id = $1 AND removed_at IS NULL`,
    [id],
  );
  return rows[0];
}

/** Returns the published rules as they run, in their order. */
export async function publishedRules(runner: Runner): Promise<readonly Rule[]> {
  const { rows } = await runner.query<{ id: string; version: number; body: RuleBody }>(
    `SELECT rules.id, version, body FROM rules
     JOIN rule_versions ON rule_id = rules.id AND version = published ORDER BY position, rules.id`,
  );
  return rows.map(({ id, version, body }) => ({ ...body, id, version }));
}

/** Returns the ids of the rules that are paused. */
export async function pausedRules(runner: Runner): Promise<ReadonlySet<string>> {
  const { rows } = await runner.query<{ id: string }>(
    'SELECT id FROM rules WHERE paused_at IS NOT NULL AND removed_at IS NULL',
  );
  return new Set(rows.map(({ id }) => id));
}

/**
 * Pauses a rule, or lets it go on (`by` is null), and keeps it from changing until the transaction ends, so that nothing is held for a
 * rule that goes on meanwhile. Returns whether there is such a rule.
 */
export async function pauseRule(runner: Runner, id: string, by: string | null): Promise<boolean> {
  const { rowCount } = await runner.query(
    `UPDATE rules SET paused_by = $2, paused_at = CASE WHEN $2::text IS NULL THEN NULL ELSE coalesce(paused_at, now()) END WHERE id = $1`,
    [id, by],
  );
  return rowCount === 1;
}

/** A rule that comes with its id, from a bundle. */
interface GivenRule {
  readonly id: string;
  readonly position: number;
  readonly folder?: string | undefined;
  readonly body: RuleBody;
  /** Whether it runs at once, as version 1. */
  readonly published: boolean;
}

/** Makes a rule that has an id already. */
export async function insertRule(
  runner: Runner,
  { id, position, folder = '', body, published }: GivenRule,
): Promise<void> {
  const json = JSON.stringify(body);
  await runner.query(
    'INSERT INTO rules (id, position, folder, draft, published) VALUES ($1, $2, $3, $4, $5)',
    [id, position, folder, json, published ? 1 : null],
  );
  if (!published) return;
  await runner.query(
    `INSERT INTO rule_versions (rule_id, version, body, published_by) VALUES ($1, 1, $2, 'demo')`,
    [id, json],
  );
}

/** Makes a rule, as the last one. */
export async function createRule(
  runner: Runner,
  body: RuleBody,
  { by, folder }: { readonly by: string; readonly folder: string },
): Promise<string> {
  const id = uuid();
  await runner.query(
    `INSERT INTO rules (id, position, draft, folder, changed_by)
     SELECT $1, coalesce(max(position), 0) + 1, $2, $3, $4 FROM rules`,
    [id, JSON.stringify(body), folder, by],
  );
  return id;
}

/** Keeps a draft, unless it was changed since `revision`; false then. */
export async function saveDraft(
  runner: Runner,
  id: string,
  revision: number,
  body: RuleBody,
  by: string,
): Promise<boolean> {
  const { rowCount } = await runner.query(
    `UPDATE rules SET draft = $3, revision = revision + 1, changed_at = now(), changed_by = $4 WHERE id = $1 AND revision = $2 AND removed_at IS NULL`,
    [id, revision, JSON.stringify(body), by],
  );
  return rowCount === 1;
}

/** Freezes the draft of this revision as the next version and puts it in force; undefined when the draft has moved on. */
export async function publishRule(
  pool: Pool,
  id: string,
  revision: number,
  { by, note }: { readonly by: string; readonly note: string },
): Promise<number | undefined> {
  return inTransaction(pool, (client) => freezeDraft(client, id, revision, { by, note }));
}

/** The same, as a part of a transaction. */
export async function freezeDraft(
  client: Client,
  id: string,
  revision: number,
  { by, note }: { readonly by: string; readonly note: string },
): Promise<number | undefined> {
  const { rows } = await client.query<{ draft: RuleBody; next: number }>(
    `SELECT draft, coalesce((SELECT max(version) FROM rule_versions WHERE rule_id = $1), 0) + 1 AS next
     FROM rules WHERE id = $1 AND revision = $2 AND removed_at IS NULL FOR UPDATE`,
    [id, revision],
  );
  const [row] = rows;
  if (!row) return undefined;
  await client.query(
    'INSERT INTO rule_versions (rule_id, version, body, published_by, note) VALUES ($1, $2, $3, $4, $5)',
    [id, row.next, JSON.stringify(row.draft), by, note],
  );
  await client.query('UPDATE rules SET published = $2 WHERE id = $1', [id, row.next]);
  await client.query('DELETE FROM publishing_asked WHERE rule_id = $1', [id]);
  return row.next;
}

/** How a rule stands, so that it can be put back. */
export interface RuleStanding {
  readonly draft: RuleBody;
  readonly folder: string;
  /** The version that runs. */
  readonly published: number | null;
  /** Whether that version says what the draft says. */
  readonly runsAsEdited: boolean;
  readonly removed: boolean;
}

/** Returns how the rules of these ids stand, removed ones too, and keeps them from changing until the transaction ends. */
export async function lockRules(
  client: Client,
  ids: readonly string[],
): Promise<ReadonlyMap<string, RuleStanding>> {
  const { rows } = await client.query<RuleStanding & { id: string }>(
    `SELECT id, draft, folder, published, removed_at IS NOT NULL AS removed,
       EXISTS (SELECT FROM rule_versions WHERE rule_id = rules.id AND version = published AND body = draft) AS "runsAsEdited"
     FROM rules WHERE id = ANY ($1) ORDER BY id FOR UPDATE`,
    [ids],
  );
  return new Map(rows.map(({ id, ...standing }) => [id, standing]));
}

/** Gives a rule another draft and folder, whatever its revision is, and takes it up where it was removed. Returns the revision that it has then. */
export async function replaceDraft(
  client: Client,
  id: string,
  { body, folder, by }: { readonly body: RuleBody; readonly folder: string; readonly by: string },
): Promise<number> {
  const { rows } = await client.query<{ revision: number }>(
    `UPDATE rules SET draft = $2, folder = $3, revision = revision + 1, changed_at = now(), changed_by = $4,
       removed_at = NULL, removed_by = NULL, removed_version = NULL
     WHERE id = $1 RETURNING revision`,
    [id, JSON.stringify(body), folder, by],
  );
  return rows[0]?.revision ?? 0;
}

/** Makes a version of a rule run again, or none. */
export async function runVersion(client: Client, id: string, version: number | null): Promise<void> {
  await client.query('UPDATE rules SET published = $2 WHERE id = $1 AND published IS DISTINCT FROM $2', [
    id,
    version,
  ]);
}

/** Returns the revision of a rule's draft; 0 where there is no such rule. */
export async function revisionOf(runner: Runner, id: string): Promise<number> {
  const { rows } = await runner.query<{ revision: number }>('SELECT revision FROM rules WHERE id = $1', [id]);
  return rows[0]?.revision ?? 0;
}

/** Returns the place after all rules. */
export async function lastPlace(runner: Runner): Promise<number> {
  const { rows } = await runner.query<{ place: number }>(
    'SELECT coalesce(max(position), 0) + 1 AS place FROM rules',
  );
  return rows[0]?.place ?? 1;
}

/** Notes that somebody asks for the draft of this revision to be published by another; false when the draft has moved on. */
export async function askToPublish(
  runner: Runner,
  id: string,
  revision: number,
  { by, note }: { readonly by: string; readonly note: string },
): Promise<boolean> {
  const { rowCount } = await runner.query(
    `INSERT INTO publishing_asked (rule_id, revision, asked_by, note)
     SELECT id, revision, $3, $4 FROM rules WHERE id = $1 AND revision = $2 AND removed_at IS NULL
     ON CONFLICT (rule_id) DO UPDATE
     SET revision = EXCLUDED.revision, asked_by = EXCLUDED.asked_by, note = EXCLUDED.note, asked_at = now()`,
    [id, revision, by, note],
  );
  return rowCount === 1;
}

/**
 * Puts rules into an order among themselves: they take the places that they have, and all others keep theirs. Every rule is locked, in the
 * order of ids, so that two who do it at the same time come one after the other. Returns false, and changes nothing, where they do not stand
 * in the order in which they were seen (`was`).
 */
export async function orderRules(
  pool: Pool,
  ids: readonly string[],
  was: readonly string[],
): Promise<boolean> {
  return inTransaction(pool, async (client) => {
    await client.query('SELECT FROM rules ORDER BY id FOR UPDATE');
    const { rows } = await client.query<{ id: string }>(
      'SELECT id FROM rules WHERE id = ANY ($1) AND removed_at IS NULL ORDER BY position, id',
      [ids],
    );
    if (rows.map(({ id }) => id).join() !== was.join()) return false;
    await client.query(
      `WITH places AS (
         SELECT id, row_number() OVER (ORDER BY position, id) AS place FROM rules
       ), free AS (
         SELECT place, row_number() OVER (ORDER BY place) AS nth FROM places WHERE id = ANY ($1)
       ), wanted AS (
         SELECT id, row_number() OVER (ORDER BY array_position($1::uuid[], id)) AS nth FROM places WHERE id = ANY ($1)
       ), settled AS (
         SELECT id, place FROM wanted JOIN free USING (nth) UNION ALL SELECT id, place FROM places WHERE id <> ALL ($1)
       )
       UPDATE rules SET position = place FROM settled WHERE rules.id = settled.id AND position <> place`,
      [ids],
    );
    return true;
  });
}

/** Makes a rule stop running; nothing where it does not run. Returns the version that ran. */
export async function withdrawRule(
  pool: Pool,
  id: string,
  { by, why }: { readonly by: string; readonly why: string },
): Promise<number | undefined> {
  return inTransaction(pool, async (client) => {
    const { rows } = await client.query<{ version: number | null }>(
      'SELECT published AS version FROM rules WHERE id = $1 FOR UPDATE',
      [id],
    );
    const version = rows[0]?.version ?? undefined;
    if (version === undefined) return undefined;
    await client.query('UPDATE rules SET published = NULL WHERE id = $1', [id]);
    await client.query('INSERT INTO rule_stops (rule_id, version, stopped_by, why) VALUES ($1, $2, $3, $4)', [
      id,
      version,
      by,
      why,
    ]);
    return version;
  });
}

/** Puts rules into a folder; a blank one is none. */
export async function fileRules(runner: Runner, ids: readonly string[], folder: string): Promise<void> {
  await runner.query('UPDATE rules SET folder = $2 WHERE id = ANY ($1)', [ids, folder]);
}

/**
 * Takes a rule away, and keeps changes from being held for it until the transaction ends. It does not run from then on, and can be brought
 * back as it was. Returns whether it was there.
 */
export async function removeRule(runner: Runner, id: string, by: string): Promise<boolean> {
  const { rowCount } = await runner.query(
    `UPDATE rules SET removed_at = now(), removed_by = $2, removed_version = published, published = NULL
     WHERE id = $1 AND removed_at IS NULL`,
    [id, by],
  );
  return rowCount === 1;
}

/** Brings a removed rule back; it runs as it did then. Returns whether it was removed. */
export async function restoreRule(runner: Runner, id: string): Promise<boolean> {
  const { rowCount } = await runner.query(
    `UPDATE rules SET published = removed_version, removed_at = NULL, removed_by = NULL, removed_version = NULL
     WHERE id = $1 AND removed_at IS NOT NULL`,
    [id],
  );
  return rowCount === 1;
}

/** Returns the rules that were removed, the last one first. */
export async function listRemoved(runner: Runner): Promise<readonly RemovedRule[]> {
  const { rows } = await runner.query<RemovedRule>(
    `SELECT id, draft->>'name' AS name, removed_by AS by, removed_at AS at, removed_version AS version
     FROM rules WHERE removed_at IS NOT NULL ORDER BY removed_at DESC`,
  );
  return rows;
}

/** Returns every publication of a rule, the last one first, and each time that it was stopped. */
export async function readHistory(runner: Runner, id: string): Promise<RuleHistory> {
  const [{ rows: versions }, { rows: stops }] = [
    await runner.query<RuleVersion>(
      `SELECT version, body, published_by AS by, published_at AS at, note FROM rule_versions
       WHERE rule_id = $1 ORDER BY version DESC`,
      [id],
    ),
    await runner.query<RuleStop>(
      `SELECT version, stopped_by AS by, stopped_at AS at, why FROM rule_stops WHERE rule_id = $1 ORDER BY id DESC`,
      [id],
    ),
  ];
  return { versions, stops };
}

export async function earlierVersions(runner: Runner): Promise<readonly EarlierVersion[]> {
  const { rows } = await runner.query<EarlierVersion>(
    `SELECT rule_id AS rule, version, body, published_by AS by, published_at AS at
     FROM rule_versions JOIN rules ON rules.id = rule_id
     WHERE published IS DISTINCT FROM version AND removed_at IS NULL ORDER BY published_at DESC, rule_id, version`,
  );
  return rows;
}

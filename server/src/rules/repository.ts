import { v7 as uuid } from 'uuid';
import type { EarlierVersion, Rule, RuleBody, RuleView } from '@vast-knot/core';
import { inTransaction, type Pool, type Runner } from '../db/pool';

const columns = `rules.id, draft, revision, changed_at AS "changedAt",
  CASE WHEN paused_at IS NULL THEN NULL ELSE json_build_object('by', paused_by, 'at', paused_at) END AS paused,
  CASE WHEN published IS NULL THEN NULL ELSE json_build_object(
    'version', published, 'body', rule_versions.body, 'by', published_by, 'at', published_at) END AS published`;
const source = 'rules LEFT JOIN rule_versions ON rule_id = rules.id AND version = published';

export async function listRules(runner: Runner): Promise<RuleView[]> {
  const { rows } = await runner.query<RuleView>(
    `SELECT ${columns} FROM ${source} ORDER BY position, rules.id`,
  );
  return rows;
}

export async function readRule(runner: Runner, id: string): Promise<RuleView | undefined> {
  const { rows } = await runner.query<RuleView>(`SELECT ${columns} FROM ${source} WHERE rules.id = $1`, [id]);
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
  const { rows } = await runner.query<{ id: string }>('SELECT id FROM rules WHERE paused_at IS NOT NULL');
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
  readonly body: RuleBody;
  /** Whether it runs at once, as version 1. */
  readonly published: boolean;
}

/** Makes a rule that has an id already. */
export async function insertRule(
  runner: Runner,
  { id, position, body, published }: GivenRule,
): Promise<void> {
  const json = JSON.stringify(body);
  await runner.query('INSERT INTO rules (id, position, draft, published) VALUES ($1, $2, $3, $4)', [
    id,
    position,
    json,
    published ? 1 : null,
  ]);
  if (!published) return;
  await runner.query(
    `INSERT INTO rule_versions (rule_id, version, body, published_by) VALUES ($1, 1, $2, 'demo')`,
    [id, json],
  );
}

export async function createRule(runner: Runner, body: RuleBody): Promise<string> {
  const id = uuid();
  await runner.query(
    'INSERT INTO rules (id, position, draft) SELECT $1, coalesce(max(position), 0) + 1, $2 FROM rules',
    [id, JSON.stringify(body)],
  );
  return id;
}

/** Keeps a draft, unless it was changed since `revision`; false then. */
export async function saveDraft(
  runner: Runner,
  id: string,
  revision: number,
  body: RuleBody,
): Promise<boolean> {
  const { rowCount } = await runner.query(
    `UPDATE rules SET draft = $3, revision = revision + 1, changed_at = now() WHERE id = $1 AND revision = $2`,
    [id, revision, JSON.stringify(body)],
  );
  return rowCount === 1;
}

/** Freezes the draft of this revision as the next version and puts it in force; undefined when the draft has moved on. */
export async function publishRule(
  pool: Pool,
  id: string,
  revision: number,
  by: string,
): Promise<number | undefined> {
  return inTransaction(pool, async (client) => {
    const { rows } = await client.query<{ draft: RuleBody; next: number }>(
      `SELECT draft, coalesce((SELECT max(version) FROM rule_versions WHERE rule_id = $1), 0) + 1 AS next
       FROM rules WHERE id = $1 AND revision = $2 FOR UPDATE`,
      [id, revision],
    );
    const [row] = rows;
    if (!row) return undefined;
    await client.query(
      'INSERT INTO rule_versions (rule_id, version, body, published_by) VALUES ($1, $2, $3, $4)',
      [id, row.next, JSON.stringify(row.draft), by],
    );
    await client.query('UPDATE rules SET published = $2 WHERE id = $1', [id, row.next]);
    return row.next;
  });
}

/** Puts rules into an order; those that are not named keep theirs, after them. */
export async function orderRules(runner: Runner, ids: readonly string[]): Promise<void> {
  await runner.query(
    `UPDATE rules SET position = place.at FROM (
       SELECT id, row_number() OVER (ORDER BY array_position($1::uuid[], id), position, id) AS at FROM rules) AS place
     WHERE rules.id = place.id`,
    [ids],
  );
}

export async function withdrawRule(runner: Runner, id: string): Promise<boolean> {
  const { rowCount } = await runner.query('UPDATE rules SET published = NULL WHERE id = $1', [id]);
  return rowCount === 1;
}

/** Returns the versions of all rules that were published once and run no longer, the latest first. */
export async function earlierVersions(runner: Runner): Promise<readonly EarlierVersion[]> {
  const { rows } = await runner.query<EarlierVersion>(
    `SELECT rule_id AS rule, version, body, published_by AS by, published_at AS at
     FROM rule_versions JOIN rules ON rules.id = rule_id
     WHERE published IS DISTINCT FROM version ORDER BY published_at DESC, rule_id, version`,
  );
  return rows;
}

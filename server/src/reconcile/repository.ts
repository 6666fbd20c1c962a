import {
  standings,
  type Existing,
  type ExistingStanding,
  type Judged,
  type ReconcileFilter,
  type ReconcileGroup,
  type ReconcileGrouping,
  type ReconcileRecord,
  type ReconcileView,
  likeCause,
  type Rule,
} from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { readJobs } from '../jobs/repository';

/** A look, as it is kept. */
export interface KeptReconcile {
  readonly id: string;
  readonly rule: Rule;
  readonly existing: Existing;
  readonly askedBy: string;
  readonly lookedAt: Date;
}

const columns = `id, rule, existing, asked_by AS "askedBy", looked_at AS "lookedAt"`;

/** Looks of one rule that are kept. */
const keptOfRule = 10;

/** Keeps a look that is about to begin; the oldest of its rule are forgotten. */
export async function insertReconcile(
  runner: Runner,
  { id, rule, existing, askedBy }: Omit<KeptReconcile, 'lookedAt'>,
): Promise<void> {
  await runner.query(
    'INSERT INTO reconciles (id, rule_id, rule, existing, asked_by) VALUES ($1, $2, $3, $4, $5)',
    [id, rule.id, JSON.stringify(rule), existing, askedBy],
  );
  await runner.query(
    `DELETE FROM reconciles WHERE rule_id = $1 AND id NOT IN (
       SELECT id FROM reconciles WHERE rule_id = $1 ORDER BY looked_at DESC LIMIT ${keptOfRule})`,
    [rule.id],
  );
}

export async function readReconcile(runner: Runner, id: string): Promise<KeptReconcile | undefined> {
  const { rows } = await runner.query<KeptReconcile>(`SELECT ${columns} FROM reconciles WHERE id = $1`, [id]);
  return rows[0];
}

/** Returns the latest looks, newest first; of one rule where it is named. */
export async function listReconciles(
  runner: Runner,
  rule: string | null,
  limit: number,
): Promise<readonly KeptReconcile[]> {
  const { rows } = await runner.query<KeptReconcile>(
    `SELECT ${columns} FROM reconciles WHERE $1::uuid IS NULL OR rule_id = $1 ORDER BY looked_at DESC LIMIT $2`,
    [rule, limit],
  );
  return rows;
}

/** A record that was looked at. */
export interface JudgedRecord extends Judged {
  readonly recordId: string;
  readonly name: string | null;
}

/** How records stand that are kept together. */
export interface KeptPage {
  /** Those that are right: their ids, and what people call them, blank where they have no name. */
  readonly right: { readonly ids: string[]; readonly names: string[] };
  readonly others: JudgedRecord[];
}

/**
 * Keeps how records stand. Those that are right are kept together: most are, and nothing more is told of them. `before` is how many records
 * were looked at before. Returns the greatest number that one of the others got; undefined where there are none.
 */
export async function keepJudged(
  runner: Runner,
  id: string,
  { right: { ids, names }, others: records, before }: KeptPage & { readonly before: number },
): Promise<string | undefined> {
  if (ids.length > 0)
    await runner.query(
      `INSERT INTO reconcile_right (reconcile, before, ids, names)
       VALUES ($1, $2, ARRAY(SELECT json_array_elements_text($3::json)), ARRAY(SELECT json_array_elements_text($4::json)))
       ON CONFLICT (reconcile, before) DO UPDATE SET ids = EXCLUDED.ids, names = EXCLUDED.names`,
      [id, before, JSON.stringify(ids), JSON.stringify(names)],
    );
  if (records.length === 0) return undefined;
  const { rows } = await runner.query<{ last: string | null }>(
    `WITH kept AS (INSERT INTO reconcile_records (reconcile, record_id, name, standing, because, cause, differences)
     SELECT $1, id, name, standing, because, cause, differences
     FROM json_to_recordset($2::json)
       AS judged (id text, name text, standing text, because text, cause text, differences jsonb)
     ON CONFLICT (reconcile, record_id) DO NOTHING RETURNING seq)
     SELECT max(seq)::text AS last FROM kept`,
    [
      id,
      JSON.stringify(
        records.map(({ recordId, name, standing, because, differences }) => ({
          id: recordId,
          name,
          standing,
          ...(because !== '' && { because, cause: likeCause(because) }),
          ...(differences.length > 0 && { differences }),
        })),
      ),
    ],
  );
  return rows[0]?.last ?? undefined;
}

/** Forgets what was kept beyond a place of a look: by a process that was killed before it said how far it came. */
export async function forgetBeyond(
  runner: Runner,
  id: string,
  { done, seq }: { readonly done: number; readonly seq?: string },
): Promise<void> {
  await runner.query('DELETE FROM reconcile_right WHERE reconcile = $1 AND before >= $2', [id, done]);
  if (seq !== undefined)
    await runner.query('DELETE FROM reconcile_records WHERE reconcile = $1 AND seq > $2', [id, seq]);
}

/** What a difference is about: the record type, or the address of a message. */
const aboutOf = `CASE WHEN difference->>'deed' = 'message' THEN difference->>'key'
  ELSE regexp_replace(difference->>'key', '^([^/]*/[^/]*)/.*$', '\\1') END`;

/** Its run went wrong or was dropped; where that writes others too, its own part of it did. */
const isFailed = `skipped IS NULL AND (run.result = 'dropped' OR CASE WHEN kept.together THEN run.state <> 'waiting' AND kept.failed IS NOT NULL
  ELSE run.state = 'failed' END)`;

/** Its run went well; one that is forgotten by now did so, or is as good as that. */
const isWritten = `skipped IS NULL AND ((run.state IN ('done', 'failed') AND (${isFailed}) IS NOT TRUE) OR (run_id IS NOT NULL AND run.id IS NULL))`;

/** It is to be written by a job that has not ended, or its run goes on. */
const isUnderWay = `skipped IS NULL AND (run.state = 'waiting' OR (chosen_by IS NOT NULL AND run_id IS NULL AND job.id IS NOT NULL))`;

const outcomeOf: Readonly<Record<NonNullable<ReconcileFilter['outcome']>, string>> = {
  written: isWritten,
  failed: isFailed,
  skipped: 'skipped IS NOT NULL',
  'under way': isUnderWay,
};

/** Places of records that are right begin here: they come after those of which there is more to say. */
const rightFrom = 10n ** 15n;
/** More than are kept together, also where a system gives all of its records as one page. */
const mostTogether = 1_000_000;

/** All records of looks, as rows of one shape; `more` narrows which of those that are right are gone through. */
const everyRecord = (
  more = '',
) => `(SELECT seq, reconcile, record_id, name, standing, because, cause, differences, chosen_by, run_id, skipped, together, failed
    FROM reconcile_records
  UNION ALL
  SELECT ${rightFrom} + page.id * ${mostTogether} + place, page.reconcile, record, nullif(label, ''), 'right', NULL, NULL, NULL::jsonb,
    NULL::uuid, NULL::bigint, NULL, false, NULL
  FROM (SELECT * FROM reconcile_right ${more}) AS page, unnest(ids, names) WITH ORDINALITY AS each (record, label, place)) AS kept`;

/** With the run of each, and with the job that is to write it while that has not ended. */
const withRun = `LEFT JOIN inbox AS run ON run.id = kept.run_id
  LEFT JOIN jobs AS job ON job.id = kept.chosen_by AND job.finished_at IS NULL`;

/** The records of looks, each with its run, and with the job that is to write it while that has not ended. */
const records = (more?: string) => `${everyRecord(more)} ${withRun}`;

/** The records of a look that a filter lets through, as a part of a statement with its values. */
export function fitting(
  id: string,
  filter: ReconcileFilter,
  moreOfRight?: string,
): { readonly from: string; readonly values: unknown[] } {
  const values: unknown[] = [id];
  const bound = (value: unknown) => `$${values.push(value)}`;
  const { standing, about, path, before, after, cause, search, outcome } = filter;
  const conditions = ['kept.reconcile = $1'];
  if (standing !== undefined) conditions.push(`kept.standing = ${bound(standing)}`);
  if (cause !== undefined) conditions.push(`kept.cause = ${bound(cause)}`);
  const of = [
    ...(about === undefined ? [] : [`${aboutOf} = ${bound(about)}`]),
    ...(path === undefined ? [] : [`difference->>'path' = ${bound(path)}`]),
    ...(before === undefined ? [] : [`difference->'before' = ${bound(before)}::jsonb`]),
    ...(after === undefined ? [] : [`difference->'after' = ${bound(after)}::jsonb`]),
  ];
  if (of.length > 0)
    conditions.push(
      `EXISTS (SELECT 1 FROM jsonb_array_elements(kept.differences) AS difference WHERE ${of.join(' AND ')})`,
    );
  if (search !== undefined && search !== '') {
    const like = bound(`%${search.replaceAll(/[\\%_]/g, '\\$&')}%`);
    conditions.push(`(kept.record_id ILIKE ${like} OR kept.name ILIKE ${like})`);
  }
  if (outcome !== undefined) conditions.push(`(${outcomeOf[outcome]})`);
  return {
    from: `${records(moreOfRight)} WHERE ${conditions.join(' AND ')}`,
    values,
  };
}

const recordColumns = `kept.seq, kept.record_id AS "recordId", kept.name, kept.standing, coalesce(kept.because, '') AS because,
  coalesce(kept.differences, '[]') AS differences, job.id IS NOT NULL AS chosen, kept.skipped,
  CASE WHEN run.id IS NOT NULL THEN json_build_object(
    'id', run.id::text, 'state', CASE WHEN ${isFailed} THEN 'failed' WHEN run.state = 'waiting' THEN 'waiting' ELSE 'done' END,
    'result', CASE WHEN kept.together AND run.state <> 'waiting' THEN CASE WHEN kept.failed IS NULL THEN 'wrote' ELSE 'failed' END
      ELSE run.result END,
    'because', CASE WHEN kept.failed IS NOT NULL THEN kept.failed
      WHEN kept.together AND run.state <> 'waiting' AND jsonb_array_length(run.event->'brings'->'records') > 1
        THEN 'Written by one run, with others.'
      ELSE coalesce(run.because, '') END) END AS run`;

/** Returns records of a look in the order in which they were looked at, after one of them, and how many there are in all. */
export async function listRecords(
  runner: Runner,
  id: string,
  filter: ReconcileFilter,
  { after, limit }: { readonly after: string; readonly limit: number },
): Promise<readonly ReconcileRecord[]> {
  const { from, values } = fitting(id, filter, rightAfter(filter, { after, limit }));
  const { rows } = await runner.query<ReconcileRecord>(
    `SELECT ${recordColumns} FROM ${from} AND kept.seq > $${values.length + 1} ORDER BY kept.seq LIMIT $${values.length + 2}`,
    [...values, after, limit],
  );
  return rows;
}

/** Returns which of those that are right a list goes through: no more than it needs, where each of them fits. */
function rightAfter(
  { search }: ReconcileFilter,
  { after, limit }: { readonly after: string; readonly limit: number },
): string {
  const first = BigInt(after) < rightFrom ? 0n : (BigInt(after) - rightFrom) / BigInt(mostTogether);
  const own = `WHERE reconcile = $1 AND id >= ${first}`;
  // Each of them has one record at least.
  return search === undefined || search === '' ? `${own} ORDER BY id LIMIT ${limit + 1}` : own;
}

/** What of a look can still be written. */
export const writable = `kept.standing = 'changes' AND kept.run_id IS NULL`;

export async function countRecords(
  runner: Runner,
  id: string,
  filter: ReconcileFilter,
): Promise<{ readonly total: number; readonly writable: number }> {
  const { from, values } = fitting(id, filter);
  const { rows } = await runner.query<{ total: number; writable: number }>(
    `SELECT count(*)::float8 AS total, (count(*) FILTER (WHERE ${writable}))::float8 AS writable FROM ${from}`,
    values,
  );
  return rows[0] ?? { total: 0, writable: 0 };
}

/** Groups that are told of; the largest come first. */
const mostGroups = 200;

const groupings: Readonly<Record<ReconcileGrouping, { readonly keys: string; readonly each: boolean }>> = {
  field: { keys: `'about', ${aboutOf}, 'path', difference->>'path'`, each: true },
  values: {
    keys: `'about', ${aboutOf}, 'path', difference->>'path', 'before', (difference->'before')::text, 'after', (difference->'after')::text`,
    each: true,
  },
  cause: { keys: `'standing', kept.standing, 'cause', kept.cause`, each: false },
};

/** Returns the records that a filter lets through, in groups, each with the filter that gives it. */
export async function groupRecords(
  runner: Runner,
  id: string,
  filter: ReconcileFilter,
  by: ReconcileGrouping,
): Promise<readonly ReconcileGroup[]> {
  const { from, values } = fitting(id, filter);
  const { keys, each } = groupings[by];
  const parts = each ? ', jsonb_array_elements(found.differences) AS difference' : '';
  const kept = keys.replaceAll('kept.', 'found.');
  const { rows } = await runner.query<{
    filter: ReconcileFilter;
    deed: ReconcileGroup['deed'];
    count: number;
  }>(
    `WITH found AS (SELECT kept.* FROM ${from})
     SELECT jsonb_build_object(${kept}) AS filter, ${each ? `min(difference->>'deed')` : 'NULL'} AS deed, count(*)::float8 AS count
     FROM found${parts} ${each ? '' : 'WHERE found.cause IS NOT NULL'}
     GROUP BY 1 ORDER BY count DESC, 1 LIMIT ${mostGroups}`,
    values,
  );
  return rows.map(({ filter: one, deed, count }) => ({ filter: one, count, ...(deed && { deed }) }));
}

interface CountRow {
  readonly reconcile: string;
  readonly standing: ExistingStanding;
  readonly count: number;
}

interface OutcomeRow {
  readonly reconcile: string;
  readonly chosen: number;
  readonly written: number;
  readonly failed: number;
  readonly underWay: number;
  readonly skipped: number;
  /** The last job that was to write something. */
  readonly writing: string;
}

const noOutcome = { chosen: 0, written: 0, failed: 0, underWay: 0, skipped: 0 };

/** Returns looks as they are shown, with how far their jobs have come. */
export async function viewsOf(
  runner: Runner,
  looks: readonly KeptReconcile[],
): Promise<readonly ReconcileView[]> {
  const ids = looks.map(({ id }) => id);
  const { rows: counts } = await runner.query<CountRow>(
    `SELECT reconcile, standing, count(*)::float8 AS count FROM reconcile_records WHERE reconcile = ANY ($1) GROUP BY 1, 2
     UNION ALL SELECT reconcile, 'right', sum(cardinality(ids))::float8 FROM reconcile_right WHERE reconcile = ANY ($1) GROUP BY 1`,
    [ids],
  );
  // Ids of jobs count upwards with time.
  const { rows: outcomes } = await runner.query<OutcomeRow>(
    `SELECT reconcile, count(*)::float8 AS chosen, (count(*) FILTER (WHERE ${isWritten}))::float8 AS written,
       (count(*) FILTER (WHERE ${isFailed}))::float8 AS failed, (count(*) FILTER (WHERE ${isUnderWay}))::float8 AS "underWay",
       count(skipped)::float8 AS skipped, max(chosen_by::text) AS writing
     FROM reconcile_records AS kept ${withRun} WHERE reconcile = ANY ($1) AND chosen_by IS NOT NULL GROUP BY 1`,
    [ids],
  );
  const jobs = await readJobs(runner, [...ids, ...outcomes.map(({ writing }) => writing)]);
  return looks.map(({ id, rule, existing, askedBy, lookedAt }) => {
    const of = counts.filter(({ reconcile }) => reconcile === id);
    const {
      writing,
      reconcile: _of,
      ...outcome
    } = outcomes.find(({ reconcile }) => reconcile === id) ?? {
      ...noOutcome,
      writing: '',
      reconcile: id,
    };
    return {
      id,
      ruleId: rule.id,
      ruleName: rule.name,
      version: rule.version,
      system: rule.trigger.system,
      recordType: rule.trigger.recordType,
      existing,
      askedBy,
      lookedAt: lookedAt.toISOString(),
      counts: Object.fromEntries(
        standings.map((standing) => [standing, of.find((row) => row.standing === standing)?.count ?? 0]),
      ) as Record<ExistingStanding, number>,
      ...outcome,
      look: jobs.get(id) ?? null,
      writing: jobs.get(writing) ?? null,
    };
  });
}

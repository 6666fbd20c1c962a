import {
  likeCause,
  manyRecords,
  type FailureGroup,
  type FailureGroups,
  type RecordRef,
} from '@vast-knot/core';
import { telling } from '../db/notices';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import { queueRecords } from '../inbox/lanes';
import { retryRuns } from './repository';

/** The last failures that are put together. */
const mostLooked = 5000;
/** Runs of a group that are named. */
const mostExamples = 10;
/** Runs that are tried again in one transaction. */
const atOnce = 200;

interface FailureRow {
  readonly id: string;
  readonly state: string;
  readonly because: string | null;
  readonly ref: RecordRef | null;
  readonly name: string | null;
  readonly rules: readonly string[];
  readonly at: Date;
  /** Those of its records that were not written, where it is a run for many of which that is known. */
  readonly failed: readonly string[] | null;
}

/** Returns the last failed runs, the latest first, one more than are looked through where there are older ones. */
async function lastFailures(runner: Runner): Promise<readonly FailureRow[]> {
  const { rows } = await runner.query<FailureRow>(
    `SELECT inbox.id, inbox.state, coalesce(runs.because, inbox.because) AS because, inbox.record_name AS name,
       CASE WHEN inbox.record_id IS NOT NULL THEN json_build_object('system', inbox.system, 'recordType', record_type, 'id', record_id) END AS ref,
       coalesce(runs.rules_fired, '{}') AS rules, received_at AS at,
       CASE WHEN inbox.record_id LIKE $1 THEN (SELECT array_agg(kept.record_id) FROM reconcile_records AS kept
         WHERE kept.seq IN (SELECT jsonb_array_elements_text(coalesce(runs.event, inbox.event)->'brings'->'records')::bigint)
           AND kept.run_id = inbox.id AND kept.failed IS NOT NULL) END AS failed
     FROM inbox LEFT JOIN runs USING (id)
     WHERE inbox.state <> 'waiting' AND trouble ORDER BY received_at DESC, id DESC LIMIT ${mostLooked + 1}`,
    [manyRecords('%')],
  );
  return rows;
}

/** Returns which records a failure is of, as texts: of a run for many those that were not written. */
function recordsOf({ ref, failed }: FailureRow): readonly string[] {
  return (failed ?? [ref?.id]).map((id) => JSON.stringify({ ...ref, id }));
}

/** Returns whether a run was begun, and can be tried again; what was refused at the door cannot. */
function isRetriable({ state }: FailureRow): boolean {
  return state === 'failed' || state === 'done';
}

/** Returns the runs that failed, those of like causes together, the most first; names of rules by their ids. */
export async function failureGroups(
  runner: Runner,
  nameOf: (rule: string) => string | undefined,
): Promise<FailureGroups> {
  const found = await lastFailures(runner);
  const { rows: aside } = await runner.query<{ cause: string; note: string; by: string; at: Date }>(
    'SELECT cause, note, by, at FROM put_aside',
  );
  const notes = new Map(aside.map(({ cause, ...note }) => [cause, note]));
  const byCause = new Map<string, FailureRow[]>();
  for (const row of found.slice(0, mostLooked)) {
    const cause = likeCause(row.because ?? '');
    const known = byCause.get(cause);
    if (known) known.push(row);
    else byCause.set(cause, [row]);
  }
  const groups = [...byCause].map(([cause, rows]): FailureGroup => {
    const note = notes.get(cause);
    const [last] = rows;
    return {
      cause,
      because: last?.because ?? '',
      runs: rows.length,
      records: new Set(rows.flatMap(recordsOf)).size,
      retriable: rows.filter(isRetriable).length,
      firstAt: (rows.at(-1)?.at ?? new Date(0)).toISOString(),
      lastAt: (last?.at ?? new Date(0)).toISOString(),
      rules: (last?.rules ?? []).flatMap((rule) => nameOf(rule) ?? []),
      examples: rows.slice(0, mostExamples).map(({ id, ref, name }) => ({ run: id, ref, name })),
      aside: note ? { ...note, at: note.at.toISOString() } : null,
    };
  });
  return {
    groups: groups.sort((a, b) => b.runs - a.runs),
    looked: Math.min(found.length, mostLooked),
    more: found.length > mostLooked,
  };
}

/** Lets all runs that failed for a cause be tried again. Returns how many. */
export async function retryCause(pool: Pool, cause: string): Promise<number> {
  const ids = (await lastFailures(pool))
    .filter((row) => isRetriable(row) && likeCause(row.because ?? '') === cause)
    // In the order in which they came.
    .map(({ id }) => id)
    .reverse();
  let count = 0;
  for (let at = 0; at < ids.length; at += atOnce)
    count += await inTransaction(pool, async (client) => {
      const retried = await retryRuns(client, ids.slice(at, at + atOnce));
      await queueRecords(client, [...retried.values()]);
      await client.query(
        telling([...retried.keys()].map((id) => ({ kind: 'run', id, state: 'waiting', result: null }))),
      );
      return retried.size;
    });
  return count;
}

/** Puts a cause aside with a note, or changes the note. */
export async function putAside(runner: Runner, cause: string, note: string, by: string): Promise<void> {
  await runner.query(
    `INSERT INTO put_aside (cause, note, by) VALUES ($1, $2, $3)
     ON CONFLICT (cause) DO UPDATE SET note = EXCLUDED.note, by = EXCLUDED.by, at = now()`,
    [cause, note, by],
  );
}

/** Takes a cause up again. Returns whether it was put aside. */
export async function takeUpAgain(runner: Runner, cause: string): Promise<boolean> {
  const { rowCount } = await runner.query('DELETE FROM put_aside WHERE cause = $1', [cause]);
  return rowCount === 1;
}

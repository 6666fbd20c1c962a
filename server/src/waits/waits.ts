import {
  changedPaths,
  refKey,
  type ChangeEvent,
  type RecordRef,
  type WaitingChange,
  type WaitView,
  recordWithRealIds,
} from '@vast-knot/core';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import { insertEvent, type ReceivedEvent } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { holdChanges } from './held';

/** One record for which one rule waits. */
export interface Wait {
  readonly rule: string;
  readonly ref: RecordRef;
}

/**
 * Keeps the changes of a run that has ended for rules that wait; one that is waited for already is folded into it, and its time
 * stays. Those for rules that are paused are held as they are. `created` has the ids that systems gave to what the run created.
 */
export async function keepWaiting(
  runner: Runner,
  changes: readonly WaitingChange[],
  created: ReadonlyMap<string, string>,
): Promise<void> {
  if (changes.length === 0) return;
  const folded = foldedTogether(changes.map((change) => withCreated(change, created)));
  await holdChanges(
    runner,
    folded.filter(({ seconds }) => seconds === undefined),
  );
  await keepTimed(
    runner,
    folded.filter(({ seconds }) => seconds !== undefined),
  );
}

async function keepTimed(runner: Runner, folded: readonly FoldedChange[]): Promise<void> {
  if (folded.length === 0) return;
  await runner.query(
    `WITH kept AS (
       INSERT INTO waiting_changes (rule_id, system, record_type, record_id, event, first_id, folded, due)
       SELECT "ruleId", event->'ref'->>'system', event->'ref'->>'recordType', event->'ref'->>'id', event, event->>'id', times,
         now() + seconds * interval '1 second'
       FROM json_to_recordset($1::json) AS changes ("ruleId" uuid, seconds numeric, event jsonb, times integer)
       ON CONFLICT (rule_id, system, record_type, record_id) DO UPDATE SET
         folded = waiting_changes.folded + EXCLUDED.folded,
         event = CASE WHEN waiting_changes.event ? 'before'
           THEN jsonb_set(EXCLUDED.event, '{before}', waiting_changes.event->'before') ELSE EXCLUDED.event - 'before' END
       RETURNING rule_id, system, record_type, record_id, due
     )
     SELECT graphile_worker.add_job('release_wait',
       json_build_object('rule', rule_id,
         'ref', json_build_object('system', system, 'recordType', record_type, 'id', record_id)),
       run_at := due, job_key := concat_ws('/', 'wait', rule_id, system, record_type, record_id))
     FROM kept`,
    [JSON.stringify(folded)],
  );
}

interface FoldedChange extends WaitingChange {
  readonly times: number;
}

/** Changes of one record for one rule as one: the last of them, with what the record was before the first. */
function foldedTogether(changes: readonly WaitingChange[]): readonly FoldedChange[] {
  const folded = new Map<string, FoldedChange>();
  for (const change of changes) {
    const key = `${change.ruleId}/${refKey(change.event.ref)}`;
    const earlier = folded.get(key);
    folded.set(key, {
      ...change,
      event: earlier?.event.before ? { ...change.event, before: earlier.event.before } : change.event,
      times: (earlier?.times ?? 0) + 1,
    });
  }
  return [...folded.values()];
}

function withCreated(change: WaitingChange, created: ReadonlyMap<string, string>): WaitingChange {
  const { event } = change;
  return {
    ...change,
    event: {
      ...event,
      ref: { ...event.ref, id: created.get(event.ref.id) ?? event.ref.id },
      record: recordWithRealIds(event.record, created),
      ...(event.before && { before: recordWithRealIds(event.before, created) }),
    },
  };
}

interface WaitRow {
  readonly event: ChangeEvent;
  readonly first_id: string;
  readonly folded: number;
}

/** Puts what a rule waited for into the inbox, as one change, for that rule alone. In one transaction, so that it is taken once. */
export async function releaseWait(pool: Pool, registry: Registry, { rule, ref }: Wait): Promise<void> {
  await inTransaction(pool, async (client) => {
    const { rows } = await client.query<WaitRow>(
      `DELETE FROM waiting_changes
       WHERE rule_id = $1 AND system = $2 AND record_type = $3 AND record_id = $4 AND due <= now()
       RETURNING event, first_id, folded`,
      [rule, ref.system, ref.recordType, ref.id],
    );
    const [row] = rows;
    if (!row) return;
    const folded = foldedEvent(registry, rule, row);
    if (folded) await insertEvent(client, folded);
  });
}

/** Returns the changes as one; undefined when they undid each other. */
function foldedEvent(
  { catalog }: Registry,
  rule: string,
  { event, first_id: first, folded }: WaitRow,
): ReceivedEvent | undefined {
  const { changed: _changed, ...rest } = event;
  const type = catalog.recordType(event.ref.system, event.ref.recordType);
  if (!type) return undefined;
  const changed = event.before ? changedPaths(type.fields, event.before, event.record) : event.changed;
  if (changed.length === 0) return undefined;
  return {
    ...rest,
    id: `${rule}/${event.ref.id}/${first}`,
    source: '/vast-knot/waits',
    rule,
    folded,
    claimed: changed,
  };
}

/** Records that rules wait for which are shown. */
const mostShown = 500;

/** Returns the records that rules wait for, those that are due first at the top. */
export async function listWaits(runner: Runner): Promise<readonly WaitView[]> {
  const { rows } = await runner.query<WaitView>(
    `SELECT json_build_object('id', rule_id, 'name', coalesce(draft->>'name', '')) AS rule,
       json_build_object('system', system, 'recordType', record_type, 'id', record_id) AS ref, folded, since, due
     FROM waiting_changes LEFT JOIN rules ON rules.id = rule_id ORDER BY due LIMIT ${mostShown}`,
  );
  return rows;
}

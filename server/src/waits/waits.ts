import {
  changedPaths,
  type ChangeEvent,
  type JsonObject,
  type RecordRef,
  type WaitingChange,
} from '@vast-knot/core';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import { insertEvent, type ReceivedEvent } from '../intake/inbox';
import type { Registry } from '../registry/registry';
import { withRealIds } from '../worker/realIds';

/** One record for which one rule waits. */
export interface Wait {
  readonly rule: string;
  readonly ref: RecordRef;
}

/**
 * Keeps the changes of a run that has ended for rules that wait; one that is waited for already is folded into it, and its time
 * stays. `created` has the ids that systems gave to what the run created.
 */
export async function keepWaiting(
  runner: Runner,
  changes: readonly WaitingChange[],
  created: ReadonlyMap<string, string>,
): Promise<void> {
  for (const { ruleId, seconds, event: planned } of changes) {
    const event = withCreated(planned, created);
    const { system, recordType, id } = event.ref;
    const { rows } = await runner.query<{ due: Date }>(
      `INSERT INTO waiting_changes (rule_id, system, record_type, record_id, event, first_id, due)
       VALUES ($1, $2, $3, $4, $5, $6, now() + $7 * interval '1 second')
       ON CONFLICT (rule_id, system, record_type, record_id) DO UPDATE SET folded = waiting_changes.folded + 1,
         event = CASE WHEN waiting_changes.event ? 'before'
           THEN jsonb_set(EXCLUDED.event, '{before}', waiting_changes.event->'before') ELSE EXCLUDED.event - 'before' END
       RETURNING due`,
      [ruleId, system, recordType, id, JSON.stringify(event), event.id, seconds],
    );
    const key = `wait/${ruleId}/${system}/${recordType}/${id}`;
    await runner.query(
      `SELECT graphile_worker.add_job('release_wait', $1::json, run_at := $2::timestamptz, job_key := $3)`,
      [JSON.stringify({ rule: ruleId, ref: event.ref }), rows[0]?.due, key],
    );
  }
}

function withCreated(event: ChangeEvent, created: ReadonlyMap<string, string>): ChangeEvent {
  const real = (record: JsonObject): JsonObject =>
    Object.fromEntries(
      Object.entries(record).map(([name, value]) => [name, withRealIds(value ?? null, created)]),
    );
  return {
    ...event,
    ref: { ...event.ref, id: created.get(event.ref.id) ?? event.ref.id },
    record: real(event.record),
    ...(event.before && { before: real(event.before) }),
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

/** The changes as one; undefined when they undid each other. */
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

import {
  existingSource,
  refKey,
  type ChangeEvent,
  type HeldOfRule,
  type WaitingChange,
} from '@vast-knot/core';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import { insertEvents, type ReceivedEvent } from '../inbox/inbox';
import { queueRecords } from '../inbox/lanes';
import { pauseRule } from '../rules/repository';
import { beginRuns, type RunEnd } from '../runs/repository';

/** Changes that are let go, or dropped, with one statement. */
const atOnce = 500;

/**
 * Holds changes for rules that are paused, in their order. A rule that goes on by now gets them at once: whoever lets it go on keeps
 * others from holding anything for it meanwhile. A change that is held already, since its run is tried again, is held once.
 */
export async function holdChanges(runner: Runner, changes: readonly WaitingChange[]): Promise<void> {
  if (changes.length === 0) return;
  const { rows: paused } = await runner.query<{ id: string }>(
    'SELECT id FROM rules WHERE id = ANY ($1) AND paused_at IS NOT NULL AND removed_at IS NULL FOR SHARE',
    [changes.map(({ ruleId }) => ruleId)],
  );
  const isPaused = new Set(paused.map(({ id }) => id));
  await letCome(
    runner,
    changes.filter(({ ruleId }) => !isPaused.has(ruleId)),
  );
  await runner.query(
    `INSERT INTO held_changes (rule_id, source, event_id, system, record_type, record_id, event)
     SELECT "ruleId", event->>'source', event->>'id', event->'ref'->>'system', event->'ref'->>'recordType', event->'ref'->>'id', event
     FROM json_to_recordset($1::json) AS changes (at integer, "ruleId" uuid, event jsonb) ORDER BY at
     ON CONFLICT (rule_id, source, event_id, system, record_type, record_id) DO UPDATE SET event = EXCLUDED.event`,
    [
      JSON.stringify(
        changes
          .filter(({ ruleId }) => isPaused.has(ruleId))
          .map(({ ruleId, event }, at) => ({ at, ruleId, event })),
      ),
    ],
  );
}

/** Puts changes into the inbox, each for its rule alone; `ended` where nobody is to handle them. Returns how many there are. */
async function letCome(
  runner: Runner,
  changes: readonly Pick<WaitingChange, 'ruleId' | 'event'>[],
  ended?: RunEnd,
): Promise<number> {
  const events = changes.map(({ ruleId, event }) => releasedEvent(ruleId, event));
  const ids = await insertEvents(runner, events, { ended: () => ended, nameOf: () => undefined });
  if (ended)
    await beginRuns(
      runner,
      changes.flatMap(({ event, ruleId }, at) => {
        const id = ids.get(events[at] as ReceivedEvent);
        return id === undefined ? [] : [{ id, event: { ...event, rule: ruleId }, ended }];
      }),
    );
  else
    await queueRecords(
      runner,
      events.map(({ ref }) => ref),
    );
  return ids.size;
}

/** The same for the same change, so that it is taken once. */
function releasedEvent(ruleId: string, { changed, ...event }: ChangeEvent): ReceivedEvent {
  return {
    ...event,
    id: `${ruleId}/${refKey(event.ref)}/${event.source}/${event.id}`,
    // What is reconciled stays so.
    source: event.existing === undefined ? '/vast-knot/paused' : existingSource,
    rule: ruleId,
    claimed: changed,
  };
}

/**
 * Lets a paused rule go on: with what was held for it, in its order, or without, where `droppedBy` says who dropped it; what was dropped
 * is kept as runs, which can be taken up. Returns how many changes there were; undefined when there is no such rule.
 */
export async function letRuleGoOn(
  pool: Pool,
  id: string,
  droppedBy: string | null,
): Promise<number | undefined> {
  const ended: RunEnd | undefined =
    droppedBy === null
      ? undefined
      : { result: 'dropped', because: `Dropped by ${droppedBy}: the rule was paused when it came.` };
  return inTransaction(pool, async (client) => {
    if (!(await pauseRule(client, id, null))) return undefined;
    let count = 0;
    for (;;) {
      const { rows } = await client.query<{ event: ChangeEvent }>(
        `WITH first AS (SELECT id FROM held_changes WHERE rule_id = $1 ORDER BY id LIMIT ${atOnce}),
           gone AS (DELETE FROM held_changes WHERE id IN (SELECT id FROM first) RETURNING id, event)
         SELECT event FROM gone ORDER BY id`,
        [id],
      );
      if (rows.length === 0) return count;
      count += await letCome(
        client,
        rows.map(({ event }) => ({ ruleId: id, event })),
        ended,
      );
    }
  });
}

/** Returns how many changes are held for a rule. */
export async function countHeld(runner: Runner, id: string): Promise<number> {
  const { rows } = await runner.query<{ held: number }>(
    'SELECT count(*)::integer AS held FROM held_changes WHERE rule_id = $1',
    [id],
  );
  return rows[0]?.held ?? 0;
}

/** Returns the rules that are paused, with how much is held for each, and since when. */
export async function listHeld(runner: Runner): Promise<readonly HeldOfRule[]> {
  const { rows } = await runner.query<HeldOfRule>(
    `SELECT rules.id, draft->>'name' AS name, paused_by AS by, paused_at AS at,
       (SELECT count(*)::integer FROM held_changes WHERE rule_id = rules.id) AS held
     FROM rules WHERE paused_at IS NOT NULL AND removed_at IS NULL ORDER BY paused_at`,
  );
  return rows;
}

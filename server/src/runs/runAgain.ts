import { v7 as uuid } from 'uuid';
import {
  changedPaths,
  startedRules,
  type ChangeEvent,
  type JsonObject,
  type RecordType,
} from '@vast-knot/core';
import { inTransaction, type Pool } from '../db/pool';
import { insertEvent } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { readPayload } from './repository';

/** What a person made of a payload. */
export interface EditedPayload {
  readonly record: JsonObject;
  readonly before?: JsonObject;
}

/**
 * Takes the payload of a run in again, once for each rule that it started and that is still published, as it is published now.
 * Each goes to its rule alone and with what the payload changed: the record has not changed once more, so that nothing could
 * be derived. The record is read again: what the rules write is made of what it holds by then; unless a person edited the payload, which is
 * then what they get. Returns the new runs, or nothing where no rule was started.
 */
export async function runAgain(
  pool: Pool,
  registry: Registry,
  runId: string,
  { by, edited }: { readonly by: string; readonly edited?: EditedPayload | undefined },
): Promise<readonly string[] | undefined> {
  const run = await readPayload(pool, runId);
  if (!run?.report) return undefined;
  const published = new Set(registry.rules.map(({ rule }) => rule.id));
  const rules = [...new Set(startedRules(run.report).map(({ ruleId }) => ruleId))].filter((id) =>
    published.has(id),
  );
  const { changed: told, ...event } = run.event;
  const type = registry.catalog.recordType(event.ref.system, event.ref.recordType);
  const changed = edited && type ? changedInEdited(type, run.event, edited) : told;
  return inTransaction(pool, async (client) => {
    const made: string[] = [];
    for (const rule of rules) {
      const source = `/vast-knot/${edited ? 'edited' : 'again'}/${encodeURIComponent(by)}`;
      const id = await insertEvent(client, {
        ...event,
        ...edited,
        id: uuid(),
        source,
        rule,
        claimed: changed,
        ...(edited ? { edited: by } : { again: true as const }),
      });
      if (id !== undefined) made.push(id);
    }
    return made;
  });
}

/** Returns what counts as changed in an edited payload: what it changes itself, or where it says nothing of before, what was told and edited. */
function changedInEdited(
  { fields }: RecordType,
  { changed, record }: ChangeEvent,
  edited: EditedPayload,
): readonly string[] {
  if (edited.before) return changedPaths(fields, edited.before, edited.record);
  return [...new Set([...changed, ...changedPaths(fields, record, edited.record)])];
}

import {
  environment,
  isDue,
  letsPass,
  noRecord,
  type ChangeEvent,
  type CompiledRule,
  type StoredRecord,
} from '@vast-knot/core';
import { pagesOf } from '../connector/recordStore';
import type { Pool } from '../db/pool';
import type { ReceivedEvent } from '../inbox/inbox';
import { countTaken, takeAll } from '../intake/takeAll';
import type { Registry } from '../registry/registry';
import { ConnectedWorkspace } from '../registry/connectedWorkspace';

/** Records that are read at a time. */
const pageSize = 200;

/**
 * Puts the records of scheduled rules that are due at a minute into the inbox: those that the guard lets pass; one event without a record
 * for a rule that is done once for all. Ids come from
 * rule, minute and record, so that a minute that is gone through twice gives nothing twice. Returns how many were put in.
 */
export async function tick(pool: Pool, registry: Registry, minute: string): Promise<number> {
  let count = 0;
  const workspace = new ConnectedWorkspace(registry);
  for (const compiled of registry.rules) {
    const { schedule, kinds } = compiled.rule.trigger;
    if (!kinds.includes('scheduled') || !schedule || !isDue(schedule, minute)) continue;
    const { system, recordType, once } = compiled.rule.trigger;
    if (once) {
      const { changed, ...told } = eventFor(
        compiled,
        { ref: { system, recordType, id: noRecord }, record: {} },
        minute,
      );
      count += countTaken(await takeAll(pool, registry, [{ ...told, claimed: changed }]));
      continue;
    }
    const store = registry.stores.get(system);
    for await (const page of store ? pagesOf(store, { type: recordType, limit: pageSize }) : []) {
      const events: ReceivedEvent[] = [];
      for (const stored of page) {
        const event = eventFor(compiled, stored, minute);
        if (!(await letsPass(compiled, event, environment(event), workspace))) continue;
        const { changed, ...told } = event;
        events.push({ ...told, claimed: changed });
      }
      count += countTaken(await takeAll(pool, registry, events));
    }
  }
  return count;
}

function eventFor({ rule }: CompiledRule, { ref, record }: StoredRecord, minute: string): ChangeEvent {
  return {
    id: `${rule.id}/${minute}/${ref.id}`,
    source: '/vast-knot/clock',
    kind: 'scheduled',
    ref,
    time: minute,
    record,
    changed: [],
    rule: rule.id,
  };
}

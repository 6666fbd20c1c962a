import {
  environment,
  isDue,
  isZone,
  letsPass,
  noRecord,
  type ChangeEvent,
  type Rule,
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
  const due = ({ trigger: { kinds, schedule } }: Rule) =>
    // A rule that cannot run may name a zone that there is none of.
    kinds.includes('scheduled') && schedule !== undefined && isZone(schedule.zone) && isDue(schedule, minute);
  // One that cannot run fails visibly each time, by a run about no record.
  for (const { rule } of registry.broken.filter((broken) => due(broken.rule)))
    count += await takeOnce(pool, registry, rule, minute);
  for (const compiled of registry.rules.filter(({ rule }) => due(rule))) {
    const { system, recordType, once } = compiled.rule.trigger;
    if (once) {
      count += await takeOnce(pool, registry, compiled.rule, minute);
      continue;
    }
    const store = registry.stores.get(system);
    for await (const page of store ? pagesOf(store, { type: recordType, limit: pageSize }) : []) {
      const events: ReceivedEvent[] = [];
      for (const stored of page) {
        const event = eventFor(compiled.rule, stored, minute);
        if (!(await letsPass(compiled, event, environment(event), workspace))) continue;
        const { changed, ...told } = event;
        events.push({ ...told, claimed: changed });
      }
      count += countTaken(await takeAll(pool, registry, events));
    }
  }
  return count;
}

/** Takes one event that is about no record. Returns how many were taken: none the second time. */
async function takeOnce(pool: Pool, registry: Registry, rule: Rule, minute: string): Promise<number> {
  const { system, recordType } = rule.trigger;
  const ref = { system, recordType, id: noRecord };
  const { changed, ...told } = eventFor(rule, { ref, record: {} }, minute);
  return countTaken(await takeAll(pool, registry, [{ ...told, claimed: changed }]));
}

function eventFor(rule: Rule, { ref, record }: StoredRecord, minute: string): ChangeEvent {
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

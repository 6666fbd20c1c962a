import {
  changedPaths,
  changeKinds,
  isOneRecord,
  tellsOfChange,
  WorkspaceError,
  type ChangeEvent,
  type RecordRef,
  type RecordType,
} from '@vast-knot/core';
import { inTransaction, type Pool } from '../db/pool';
import { deriveAndKeep, type Looked } from '../images/derive';
import { eventOf, type ReceivedEvent, type WaitingEvent } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { beginRuns, keepEvent, lateBecause, type RunEnd, type RunSoFar } from '../runs/repository';
import type { Sets } from './sets';
import { begunNow, withReading } from './sets/begin';

interface Beginning {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly sets: Sets;
}

/**
 * Begins the run of an event, or takes it up where another try left it. What the event changed is derived from the image of its record;
 * where that cannot tell whether the event is late, or it holds only a part of the record, the record is read. A new try begins with
 * the record as it is by then. Throws a WorkspaceError when the record cannot be read now.
 */
export async function beginRun(
  beginning: Beginning,
  waiting: WaitingEvent,
  known: RunSoFar | undefined,
): Promise<RunSoFar> {
  const { registry } = beginning;
  const { id, event: received, attempts } = waiting;
  if (known) return !known.ended && attempts > known.plannedTry ? asItIsNow(beginning, id, known) : known;
  const { ref } = received;
  const recordType = registry.catalog.recordType(ref.system, ref.recordType);
  if (!recordType)
    throw new WorkspaceError({
      code: 'refused',
      message: `There is no record type “${ref.recordType}” in the system “${ref.system}”.`,
      retry: false,
    });
  if (!tellsOfChange(received)) return beginAsTold(beginning, waiting);
  const looked = received.part && received.kind !== 'deleted' ? await look(registry, received) : undefined;
  return (
    (await derived(beginning, waiting, recordType, looked)) ??
    (await derived(beginning, waiting, recordType, await look(registry, received))) ??
    neverUnsure(ref)
  );
}

function neverUnsure({ id }: RecordRef): never {
  throw new Error(`What was read of ${id} could not be compared.`);
}

/** Derives what an event changed and begins its run; returns nothing where the record has to be looked at first. */
function derived(
  { registry, sets }: Beginning,
  waiting: WaitingEvent,
  recordType: RecordType,
  looked: Looked | undefined,
): Promise<RunSoFar | undefined> {
  const connector = registry.connectors.get(waiting.event.ref.system);
  return sets.begin.do({
    waiting,
    recordType,
    versionOf: (record) => connector?.versionOf(recordType.name, record),
    looked,
  });
}

/** Requests, clocks, rows, waits, and what is run again: they are for rules as they are told. */
async function beginAsTold({ pool, registry }: Beginning, waiting: WaitingEvent): Promise<RunSoFar> {
  const { id, event: received } = waiting;
  // What starts from no record, or from many, has none that could be looked at.
  const looked = received.again && isOneRecord(received.ref) ? await look(registry, received) : undefined;
  const told: ChangeEvent = { ...eventOf(received), changed: received.claimed };
  const event = looked?.found
    ? withReading({ ...told, record: looked.found.record }, received, looked)
    : told;
  const ended: RunEnd | undefined =
    looked && !looked.found ? { result: 'late', because: lateBecause(undefined, undefined) } : undefined;
  await beginRuns(pool, [{ id, event, ended }]);
  return begunNow(event, waiting, ended);
}

/** Takes a run up anew: with the record as it is now, and with what changed in it meanwhile. */
async function asItIsNow({ pool, registry }: Beginning, id: string, run: RunSoFar): Promise<RunSoFar> {
  const { event } = run;
  const type = registry.catalog.recordType(event.ref.system, event.ref.recordType);
  const isRead =
    type &&
    changeKinds.includes(event.kind) &&
    isOneRecord(event.ref) &&
    !event.undoes &&
    event.edited === undefined;
  const looked = isRead ? await look(registry, event) : undefined;
  // What was computed before is computed anew.
  const anew: RunSoFar = { ...run, report: null };
  if (!type || !looked) return anew;
  const { found } = looked;
  if (!found) return { ...anew, ended: { result: 'late', because: lateBecause(undefined, undefined) } };
  if (changedPaths(type.fields, event.record, found.record).length === 0) return anew;
  const connector = registry.connectors.get(event.ref.system);
  return inTransaction(pool, async (client) => {
    let more: readonly string[] = [];
    if (tellsOfChange(event)) {
      const result = await deriveAndKeep(client, {
        recordType: type,
        versionOf: (record) => connector?.versionOf(type.name, record),
        received: { ...event, claimed: [] },
        looked,
      });
      // What newer events told has been dealt with; only what none told yet is news.
      if (result.is === 'news') more = result.event.changed;
    }
    const now: ChangeEvent = {
      ...event,
      record: found.record,
      changed: [...new Set([...event.changed, ...more])],
      readAt: new Date().toISOString(),
    };
    await keepEvent(client, id, now);
    return { ...anew, event: now };
  });
}

/**
 * Returns the record of an event as it is in its system now; undefined where the system cannot be asked. Throws a WorkspaceError when
 * the system does not answer.
 */
async function look(
  registry: Registry,
  { ref, kind, record }: Pick<ReceivedEvent, 'ref' | 'kind' | 'record'>,
): Promise<Looked | undefined> {
  const store = registry.stores.get(ref.system);
  if (store) return { found: await store.get(ref.recordType, ref.id) };
  return kind === 'deleted' ? { found: undefined } : { found: { ref, record } };
}

import { refKey, tellsOfChange, type ChangeEvent, type Notice } from '@vast-knot/core';
import { telling } from '../db/notices';
import { inTransaction, together, type Client, type Pool, type Runner } from '../db/pool';
import type { Registry } from '../registry/registry';
import { deriveAgainst, type DerivedEvent } from '../images/derive';
import { keepingImages, readImages, type KnownImage } from '../images/images';
import { writesOnTheirWay, type OnTheirWay } from '../runs/onTheirWay';
import { beginningRuns, lateBecause, ownWriteBecause, type RunEnd } from '../runs/repository';
import { insertEvents, lookUp, type ReceivedEvent } from '../inbox/inbox';
import { queueingRecords } from '../inbox/lanes';

/** An event that was derived at once. */
interface DerivedAtIntake {
  readonly derived: ChangeEvent;
  /** What it came to where nobody has to handle it. */
  readonly ended: RunEnd | undefined;
}

/** Keeps the events of a system in the order in which they came, whichever process takes them. */
const intakeLock = 4601;

/** What became of an event that was taken in. */
export interface Taken {
  /** The id of its run; undefined for what was taken before. */
  readonly id: string | undefined;
  /** It only told of a write of ours. */
  readonly own: boolean;
}

/** Returns how many of the events had not been taken before. */
export function countTaken(taken: readonly Taken[]): number {
  return taken.filter(({ id }) => id !== undefined).length;
}

/**
 * Puts events into the inbox, in one transaction. Returns what became of each. What each
 * changed is derived at once where nothing of its record is under way; events of our own writes, which nobody has to handle,
 * are done with that. The others get a job for their record.
 */
export async function takeAll(
  pool: Pool,
  registry: Registry,
  events: readonly ReceivedEvent[],
): Promise<readonly Taken[]> {
  if (events.length === 0) return [];
  return inTransaction(pool, (client) => takeIn(client, registry, events));
}

/** The same within a transaction, beside what else has to be kept with the events. */
export async function takeIn(
  client: Client,
  registry: Registry,
  events: readonly ReceivedEvent[],
): Promise<readonly Taken[]> {
  // In one order everywhere, so that two transactions never wait for each other.
  const systems = [...new Set(events.map(({ ref }) => ref.system))].sort();
  for (const system of systems)
    await client.query('SELECT pg_advisory_xact_lock($1, hashtext($2))', [intakeLock, system]);
  const { fresh, waiting } = await lookUp(client, events);
  const { derived, images } = await deriveAll(client, registry, fresh, waiting);
  const ids = await insertEvents(client, fresh, {
    ended: (event) => derived.get(event)?.ended,
    nameOf: (event) => nameOf(registry, event),
  });
  const begun = [...derived].flatMap(([event, { derived: told, ended }]) => {
    const id = ids.get(event);
    return id === undefined ? [] : [{ id, event: told, ended }];
  });
  const open = fresh.filter((event) => !derived.get(event)?.ended);
  await together(
    client,
    keepingImages(images),
    beginningRuns(begun),
    queueingRecords(open.map(({ ref }) => ref)),
    telling(noticesOf(fresh, ids, derived)),
  );
  return events.map((event) => {
    return { id: ids.get(event), own: derived.get(event)?.ended?.result === 'own write' };
  });
}

/** Returns how people call the record of an event. */
function nameOf({ catalog }: Registry, { ref, record, brings }: ReceivedEvent): string | undefined {
  const type = catalog.recordType(ref.system, ref.recordType);
  if (brings) {
    const { length } = brings.records;
    const of = length === 1 ? type?.label : type?.plural;
    return `${length} ${of?.toLowerCase() ?? ref.recordType}`;
  }
  const name = type && record[type.nameField];
  return typeof name === 'string' ? name.slice(0, 200) : undefined;
}

/**
 * Derives what can be derived now: updates of records of which no earlier event waits (those in `blocked` have one) and no write of ours
 * is unclear.
 */
async function deriveAll(
  client: Runner,
  registry: Registry,
  events: readonly ReceivedEvent[],
  blocked: Set<string>,
): Promise<{
  readonly derived: ReadonlyMap<ReceivedEvent, DerivedAtIntake>;
  readonly images: readonly KnownImage[];
}> {
  const derived = new Map<ReceivedEvent, DerivedAtIntake>();
  if (!events.some(isUpdate)) return { derived, images: [] };
  const refs = events.map(({ ref }) => ref);
  const images = await readImages(client, refs);
  const onTheirWay = await writesOnTheirWay(
    client,
    events.map(({ ref }) => ({ ref })),
  );
  const changed = new Map<string, KnownImage>();
  for (const event of events) {
    const key = refKey(event.ref);
    const one =
      isUpdate(event) && !blocked.has(key)
        ? derivedNow(registry, event, images.get(key), onTheirWay)
        : undefined;
    // What comes after an event that has to be handled, or cannot be derived yet, waits for it.
    const ended = one && endOf(one);
    if (!ended) blocked.add(key);
    if (!one) continue;
    images.set(key, one.image);
    // The image gets a write of ours when its result is noted; its event need not write it once more.
    if (!ended || !onTheirWay.edits.has(key)) changed.set(key, one.image);
    derived.set(event, { derived: one.event, ended });
  }
  return { derived, images: [...changed.values()] };
}

function isUpdate(event: ReceivedEvent): boolean {
  return event.kind === 'updated' && tellsOfChange(event);
}

/** Returns what a derived event came to where nobody has to handle it. */
export function endOf(derived: Exclude<DerivedEvent, { is: 'unsure' }>): RunEnd | undefined {
  if (derived.own) return { result: 'own write', because: ownWriteBecause };
  return derived.is === 'late'
    ? { result: 'late', because: lateBecause(derived.told, derived.known) }
    : undefined;
}

function derivedNow(
  registry: Registry,
  event: ReceivedEvent,
  image: KnownImage | undefined,
  { creating, edits }: OnTheirWay,
): Exclude<DerivedEvent, { is: 'unsure' }> | undefined {
  const { system, recordType } = event.ref;
  const type = registry.catalog.recordType(system, recordType);
  const key = refKey(event.ref);
  if (!type || event.part || creating.has(key)) return undefined;
  const flying = edits.get(key);
  const connector = registry.connectors.get(system);
  const result = deriveAgainst({
    recordType: type,
    versionOf: (record) => connector?.versionOf(type.name, record),
    received: event,
    image,
    flying,
  });
  // With a write of ours on its way, only its own event can be told for certain.
  return result.is === 'unsure' || (flying && !result.own) ? undefined : result;
}

/** Returns what screens hear of: every event that is to be handled, what it changed, and of our own ones that there were some. */
function noticesOf(
  events: readonly ReceivedEvent[],
  ids: ReadonlyMap<ReceivedEvent, string>,
  derived: ReadonlyMap<ReceivedEvent, DerivedAtIntake>,
): readonly Notice[] {
  let lastOwn: string | undefined;
  const notices = events.flatMap((event): Notice[] => {
    const id = ids.get(event);
    const one = derived.get(event);
    if (one?.ended?.result === 'own write') {
      lastOwn = id;
      return [];
    }
    if (id === undefined) return [];
    if (one?.ended) return [{ kind: 'run', id, state: 'done', result: one.ended.result }];
    const run: Notice = { kind: 'run', id, state: 'waiting', result: null };
    if (!one || one.derived.changed.length === 0) return [run];
    return [run, { kind: 'record', ref: event.ref, fields: one.derived.changed, by: 'event' }];
  });
  return lastOwn === undefined
    ? notices
    : [...notices, { kind: 'run', id: lastOwn, state: 'done', result: 'own write' }];
}

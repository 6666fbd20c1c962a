import { refKey, type ChangeEvent, type Notice, type RecordRef, type RecordType } from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import type { Registry } from '../registry/registry';
import { deriveAgainst } from '../images/derive';
import { keepImages, readImages, writesOnTheirWay, type KnownImage, type OnTheirWay } from '../images/images';
import { queueRecords, type ReceivedEvent } from '../inbox/inbox';

/** An event that was derived at once, and whether it tells of nothing but our own write. */
interface Derived {
  readonly derived: ChangeEvent;
  readonly own: boolean;
  readonly type: RecordType;
}

/** Keeps events in the order in which they came, whichever process takes them. */
const intakeLock = 4601;

/**
 * Puts events into the inbox, in one transaction: gives the id of each run, undefined for what was taken before. What each
 * changed is derived at once where nothing of its record is under way; events of our own writes, which nobody has to handle,
 * are done with that. The others get a job for their record.
 */
export async function takeAll(
  pool: Pool,
  registry: Registry,
  events: readonly ReceivedEvent[],
): Promise<readonly (string | undefined)[]> {
  if (events.length === 0) return [];
  return inTransaction(pool, async (client) => {
    await client.query('SELECT pg_advisory_xact_lock($1)', [intakeLock]);
    const fresh = await notTakenBefore(client, events);
    const derived = await deriveAll(client, registry, fresh);
    const isOwn = (event: ReceivedEvent) => derived.get(event)?.own ?? false;
    const ids = await insertAll(client, fresh, isOwn);
    await keepRuns(client, ids, derived);
    const open = fresh.filter((event) => !isOwn(event));
    await queueRecords(
      client,
      open.map(({ ref }) => ref),
    );
    await tell(client, ...noticesOf(fresh, ids, derived));
    return events.map((event) => ids.get(event));
  });
}

/** The events that are not in the inbox yet; the same event twice in one batch counts once. */
async function notTakenBefore(
  client: Runner,
  events: readonly ReceivedEvent[],
): Promise<readonly ReceivedEvent[]> {
  const { rows } = await client.query<{ source: string; event_id: string }>(
    `SELECT source, event_id FROM inbox WHERE state IN ('waiting', 'done', 'failed')
       AND (source, event_id) IN (SELECT * FROM unnest($1::text[], $2::text[]))`,
    [events.map(({ source }) => source), events.map(({ id }) => id)],
  );
  const known = new Set(rows.map((row) => `${row.source} ${row.event_id}`));
  return events.filter(({ source, id }) => {
    const key = `${source} ${id}`;
    if (known.has(key)) return false;
    known.add(key);
    return true;
  });
}

/** Puts events into the inbox, in their order; our own writes are done with. Gives the id of the run of each. */
async function insertAll(
  client: Runner,
  events: readonly ReceivedEvent[],
  isOwn: (event: ReceivedEvent) => boolean,
): Promise<ReadonlyMap<ReceivedEvent, string>> {
  if (events.length === 0) return new Map();
  const { rows } = await client.query<{ id: string; source: string; event_id: string }>(
    `INSERT INTO inbox (system, source, event_id, record_type, record_id, kind, event, state, because)
     SELECT event->'ref'->>'system', event->>'source', event->>'id', event->'ref'->>'recordType', event->'ref'->>'id',
       event->>'kind', event, CASE WHEN own THEN 'done' ELSE 'waiting' END, CASE WHEN own THEN $2 END
     FROM json_to_recordset($1::json) AS came (at integer, event jsonb, own boolean)
     ORDER BY at
     ON CONFLICT (source, event_id) WHERE state IN ('waiting', 'done', 'failed') DO NOTHING
     RETURNING id, source, event_id`,
    [JSON.stringify(events.map((event, at) => ({ at, event, own: isOwn(event) }))), ownWriteBecause],
  );
  const given = new Map(rows.map(({ id, source, event_id: event }) => [`${source} ${event}`, id]));
  return new Map(
    events.flatMap((event): [ReceivedEvent, string][] => {
      const id = given.get(`${event.source} ${event.id}`);
      return id === undefined ? [] : [[event, id]];
    }),
  );
}

/** Derives what can be derived now: updates of records of which no earlier event waits and no write of ours is unclear. */
async function deriveAll(
  client: Runner,
  registry: Registry,
  events: readonly ReceivedEvent[],
): Promise<ReadonlyMap<ReceivedEvent, Derived>> {
  const derived = new Map<ReceivedEvent, Derived>();
  if (!events.some(isUpdate)) return derived;
  const refs = events.map(({ ref }) => ref);
  const images = await readImages(client, refs);
  const onTheirWay = await writesOnTheirWay(client, refs);
  const blocked = await waitedFor(client, refs);
  const changed = new Map<string, KnownImage>();
  for (const event of events) {
    const key = refKey(event.ref);
    const one =
      isUpdate(event) && !blocked.has(key)
        ? derivedNow(registry, event, images.get(key), onTheirWay)
        : undefined;
    // What comes after an event that has to be handled, or cannot be derived yet, waits for it.
    if (!one?.own) blocked.add(key);
    if (!one) continue;
    images.set(key, one.image);
    // The image gets a write of ours when its result is noted; its event need not write it once more.
    if (!one.own || !onTheirWay.edits.has(key)) changed.set(key, one.image);
    derived.set(event, { derived: one.event, own: one.own, type: one.type });
  }
  await keepImages(client, [...changed.values()]);
  return derived;
}

function isUpdate({ kind, rule }: ReceivedEvent): boolean {
  return kind === 'updated' && rule === undefined;
}

function derivedNow(
  registry: Registry,
  event: ReceivedEvent,
  image: KnownImage | undefined,
  { creating, edits }: OnTheirWay,
): { event: ChangeEvent; own: boolean; image: KnownImage; type: RecordType } | undefined {
  const { system, recordType } = event.ref;
  const type = registry.catalog.recordType(system, recordType);
  if (!type || creating.has(`${system}/${recordType}`)) return undefined;
  const flying = edits.get(refKey(event.ref));
  const versionField = registry.connections.get(system)?.version?.field;
  const result = deriveAgainst(type, versionField, event, image, flying);
  // With a write of ours on its way, only its own event can be told for certain.
  return flying && !result.own ? undefined : { ...result, type };
}

/** Records of which an earlier event still waits. */
async function waitedFor(client: Runner, refs: readonly RecordRef[]): Promise<Set<string>> {
  const { rows } = await client.query<RecordRef>(
    `SELECT DISTINCT system, record_type AS "recordType", record_id AS id FROM inbox
     WHERE state = 'waiting'
       AND (system, record_type, record_id) IN (SELECT * FROM unnest($1::text[], $2::text[], $3::text[]))`,
    [refs.map(({ system }) => system), refs.map(({ recordType }) => recordType), refs.map(({ id }) => id)],
  );
  return new Set(rows.map(refKey));
}

/** Sentence of a run that only saw our own write. */
export const ownWriteBecause = 'Our own write came back; nothing else changed.';

async function keepRuns(
  client: Runner,
  ids: ReadonlyMap<ReceivedEvent, string>,
  derived: ReadonlyMap<ReceivedEvent, Derived>,
): Promise<void> {
  const begun = [...derived].flatMap(([event, each]) => {
    const id = ids.get(event);
    return id === undefined ? [] : [{ id, ...each }];
  });
  if (begun.length === 0) return;
  await client.query(
    `INSERT INTO runs (id, state, event, result, because, finished_at)
     SELECT id, CASE WHEN own THEN 'done' ELSE 'running' END, event, CASE WHEN own THEN 'own write' END,
       CASE WHEN own THEN $2 ELSE '' END, CASE WHEN own THEN now() END
     FROM json_to_recordset($1::json) AS begun (id bigint, event jsonb, own boolean)`,
    [
      JSON.stringify(begun.map(({ id, own, derived: event }) => ({ id, own, ...(!own && { event }) }))),
      ownWriteBecause,
    ],
  );
}

/** What screens hear of: every event that is to be handled, what it changed, and of our own ones that there were some. */
function noticesOf(
  events: readonly ReceivedEvent[],
  ids: ReadonlyMap<ReceivedEvent, string>,
  derived: ReadonlyMap<ReceivedEvent, Derived>,
): readonly Notice[] {
  let lastOwn: string | undefined;
  const notices = events.flatMap((event): Notice[] => {
    const id = ids.get(event);
    const one = derived.get(event);
    if (one?.own) lastOwn = id;
    if (id === undefined || one?.own) return [];
    const run: Notice = { kind: 'run', id, state: 'waiting', result: null };
    if (!one || one.derived.changed.length === 0) return [run];
    return [run, { kind: 'record', ref: event.ref, fields: one.derived.changed, by: 'event' }];
  });
  return lastOwn === undefined
    ? notices
    : [...notices, { kind: 'run', id: lastOwn, state: 'done', result: 'own write' }];
}

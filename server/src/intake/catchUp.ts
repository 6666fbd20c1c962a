import {
  changeMark,
  deriveChange,
  readPath,
  refKey,
  type RecordImage,
  type RecordType,
  type StoredRecord,
} from '@vast-knot/core';
import type { Connector } from '../connector/connector';
import { ahead, pagesOf, type RecordStore } from '../connector/recordStore';
import type { Pool } from '../db/pool';
import { digestOf } from '../images/digest';
import { digestsOf, keepFirstSeen, noteDigests, peekImages } from '../images/images';
import { KnownDigests } from '../images/knownDigests';
import type { ReceivedEvent } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { countTaken, takeAll } from './takeAll';

/** Records that are read and compared at a time. */
const pageSize = 500;

/** Why changes are looked for; the source of the events that are found. */
export const lookSources = {
  /** After a start or an outage, and at night. */
  'catching up': '/vast-knot/catching-up',
  /** Because the system is to be asked every so often. */
  asking: '/vast-knot/asking',
  /** Because its records are to be compared every so often. */
  comparing: '/vast-knot/comparing',
} as const;

/** What is looked through for changes. */
export interface Looking {
  readonly system: string;
  readonly recordType: string;
  readonly why: keyof typeof lookSources;
  readonly now: Date;
}

/** What was found. */
export interface Found {
  /** Events that were taken. */
  readonly taken: number;
  /** The greatest mark of a change that was seen. */
  readonly mark: number | undefined;
}

interface Looked {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly connector: Connector;
  readonly store: RecordStore;
  readonly type: RecordType;
  readonly looking: Looking;
}

function lookedAt(pool: Pool, registry: Registry, looking: Looking): Looked | undefined {
  const connector = registry.connectors.get(looking.system);
  const type = registry.catalog.recordType(looking.system, looking.recordType);
  const store = connector?.records;
  return connector && type && store ? { pool, registry, connector, store, type, looking } : undefined;
}

/**
 * Reads every record of a type and takes what differs from its image as events, as if the system had told of it: changes, records
 * that are new, and those that are gone. `learning`, the first time, nothing is known yet, and what is there is only remembered. Throws
 * a WorkspaceError when the system does not answer.
 */
export async function compareAll(
  pool: Pool,
  registry: Registry,
  looking: Looking,
  learning: boolean,
): Promise<Found> {
  const looked = lookedAt(pool, registry, looking);
  if (!looked) return nothing;
  const known = new KnownDigests();
  if (!learning)
    for await (const some of ahead(digestsOf(pool, looking)))
      for (const [id, digest] of some) known.add(id, digest);
  let found = nothing;
  // While one page is compared, the next one is on its way.
  for await (const page of ahead(pagesOf(looked.store, { type: looking.recordType, limit: pageSize }))) {
    if (learning) await keepFirstSeen(pool, page);
    // Most records are as they were.
    const unlike = page.filter(({ ref, record }) => !known.see(ref.id, digestOf(record)));
    found = together(found, {
      taken: learning ? 0 : await takeDifferences(looked, unlike),
      mark: greatestMark(looked.connector, page),
    });
  }
  return known.anyLeft ? together(found, { taken: await takeGone(looked, known), mark: undefined }) : found;
}

/**
 * Asks for the records of a type that changed since a mark, and takes what differs from its image as events. What is gone is not found.
 * Throws a WorkspaceError when the system does not answer.
 */
export async function askSince(
  pool: Pool,
  registry: Registry,
  looking: Looking,
  mark: number,
): Promise<Found> {
  const looked = lookedAt(pool, registry, looking);
  if (!looked) return nothing;
  let found: Found = { taken: 0, mark };
  for await (const page of ahead(
    pagesOf(looked.store, { type: looking.recordType, limit: pageSize, since: mark }),
  ))
    found = together(found, {
      taken: await takeDifferences(looked, page),
      mark: greatestMark(looked.connector, page),
    });
  return found;
}

const nothing: Found = { taken: 0, mark: undefined };

function together(one: Found, other: Found): Found {
  const marks = [one.mark, other.mark].filter((mark) => mark !== undefined);
  return {
    taken: one.taken + other.taken,
    mark: marks.length === 0 ? undefined : Math.max(...marks),
  };
}

/** Returns the greatest mark of a change among records; undefined for types that are not asked so. */
function greatestMark(connector: Connector, page: readonly StoredRecord[]): number | undefined {
  let greatest: number | undefined;
  for (const { ref, record } of page) {
    const { asked } = connector.listeningOf(ref.recordType);
    const mark = asked && changeMark(asked.form, readPath(record, asked.field));
    if (mark !== undefined && (greatest === undefined || mark > greatest)) greatest = mark;
  }
  return greatest;
}

async function takeDifferences(
  { pool, registry, connector, type, looking }: Looked,
  page: readonly StoredRecord[],
): Promise<number> {
  if (page.length === 0) return 0;
  // A record that moved from one page to the next while they were read comes twice.
  const once = [...new Map(page.map((stored) => [stored.ref.id, stored])).values()];
  const images = await peekImages(
    pool,
    once.map(({ ref }) => ref),
  );
  const events: ReceivedEvent[] = [];
  const same: { id: string; before: number | null; digest: number }[] = [];
  for (const stored of once) {
    const image = images.get(refKey(stored.ref));
    const kind = !image || image.gone ? 'created' : 'updated';
    const is = kind === 'created' ? 'news' : beside(connector, type, image, stored);
    if (is === 'news') events.push(eventFor(stored, kind, looking));
    const [before, digest] = [image?.digest ?? null, digestOf(stored.record)];
    if (is === 'same' && before !== digest) same.push({ id: stored.ref.id, before, digest });
  }
  await noteDigests(pool, looking, same);
  return countTaken(await takeAll(pool, registry, events));
}

/** Returns whether a record is newer than its image, and not as it; as it, though it may be written in another form; or older. */
function beside(
  connector: Connector,
  type: RecordType,
  image: RecordImage | undefined,
  { record }: StoredRecord,
): 'news' | 'same' | 'older' {
  const versionOf = (of: StoredRecord['record']) => connector.versionOf(type.name, of);
  const derived = deriveChange(type, image, { record, version: versionOf(record), fetched: true }, versionOf);
  // What was read a moment ago may be older than an event that came meanwhile.
  const [read, known] = [versionOf(record), image && versionOf(image.record)];
  if (read !== undefined && known !== undefined && read < known) return 'older';
  // What is late, or of which nothing is sure, says nothing of how the record is.
  if (derived.is !== 'news') return 'older';
  return derived.changed.length > 0 ? 'news' : 'same';
}

/** Takes the records as removed of which there are images, and which are not there any more. */
async function takeGone(looked: Looked, known: KnownDigests): Promise<number> {
  const { pool, registry, store, looking } = looked;
  const { system, recordType } = looking;
  let count = 0;
  for await (const some of digestsOf(pool, looking)) {
    const left = some.flatMap(([id]) => (known.isLeft(id) ? [id] : []));
    for (let at = 0; at < left.length; at += pageSize) {
      const ids = left.slice(at, at + pageSize);
      // They may have come into the list, or left it, while that was read.
      const there = await thoseThere(store, recordType, ids);
      const gone = ids.filter((id) => !there.has(id)).map((id) => ({ system, recordType, id }));
      const images = await peekImages(pool, gone);
      const events = gone.flatMap((ref) => {
        const image = images.get(refKey(ref));
        return image ? [eventFor({ ref, record: image.record }, 'deleted', looking)] : [];
      });
      count += countTaken(await takeAll(pool, registry, events));
    }
  }
  return count;
}

/** Returns those of the ids of which there is a record; asked for together where the system can be asked so. */
async function thoseThere(
  store: RecordStore,
  type: string,
  ids: readonly string[],
): Promise<ReadonlySet<string>> {
  if (store.getMany) return new Set((await store.getMany(type, ids)).map(({ ref }) => ref.id));
  const there = new Set<string>();
  for (const id of ids) if (await store.get(type, id)) there.add(id);
  return there;
}

function eventFor(
  { ref, record, version }: StoredRecord,
  kind: ReceivedEvent['kind'],
  { now, why }: Looking,
): ReceivedEvent {
  const time = now.toISOString();
  return {
    id: `${refKey(ref)}/${version ?? ''}/${time}`,
    source: lookSources[why],
    kind,
    ref,
    time,
    record,
    claimed: [],
  };
}

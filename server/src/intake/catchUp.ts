import { deriveChange, refKey, type RecordImage, type RecordType, type StoredRecord } from '@vast-knot/core';
import { pagesOf, type RecordStore } from '../connector/recordStore';
import type { Pool } from '../db/pool';
import { imagesAfter, keepFirstSeen, peekImages, type KnownImage } from '../images/images';
import type { ReceivedEvent } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { countTaken, takeAll } from './takeAll';

/** Records that are read and compared at a time. */
const pageSize = 200;

/** Where events come from that were found by catching up. */
const catchingUp = '/vast-knot/catching-up';

/**
 * Reads every record of a system and takes what differs from its image as events, as if the system had told of it: changes, records
 * that are new, and those that are gone. `learning`, the first time, nothing is known yet, and what is there is only remembered. Returns
 * how many events were taken. Throws a WorkspaceError when the system does not answer.
 */
export async function catchUp(
  pool: Pool,
  registry: Registry,
  { system, learning, now }: { readonly system: string; readonly learning: boolean; readonly now: Date },
): Promise<number> {
  const store = registry.connectors.get(system)?.records;
  let taken = 0;
  for (const type of (store && registry.catalog.system(system)?.recordTypes) ?? []) {
    if (!store) continue;
    const seen = new Set<string>();
    for await (const page of pagesOf(store, { type: type.name, limit: pageSize })) {
      for (const { ref } of page) seen.add(ref.id);
      if (learning) await keepFirstSeen(pool, page);
      else taken += await takeDifferences(pool, registry, { type, page, now });
    }
    if (!learning) taken += await takeGone(pool, registry, { system, type, store, seen, now });
  }
  return taken;
}

interface Comparing {
  readonly type: RecordType;
  readonly page: readonly StoredRecord[];
  readonly now: Date;
}

async function takeDifferences(
  pool: Pool,
  registry: Registry,
  { type, page, now }: Comparing,
): Promise<number> {
  const images = await peekImages(
    pool,
    page.map(({ ref }) => ref),
  );
  const events = page.flatMap((stored): ReceivedEvent[] => {
    const image = images.get(refKey(stored.ref));
    const kind = !image || image.gone ? 'created' : 'updated';
    return kind === 'updated' && !differs(registry, type, image, stored) ? [] : [eventFor(stored, kind, now)];
  });
  return countTaken(await takeAll(pool, registry, events));
}

/** Returns whether a record is newer than its image, and not as it. */
function differs(
  registry: Registry,
  type: RecordType,
  image: RecordImage | undefined,
  { ref, record }: StoredRecord,
): boolean {
  const connector = registry.connectors.get(ref.system);
  const versionOf = (of: StoredRecord['record']) => connector?.versionOf(of);
  const derived = deriveChange(type, image, { record, version: versionOf(record), fetched: true }, versionOf);
  // What was read a moment ago may be older than an event that came meanwhile.
  const [read, known] = [versionOf(record), image && versionOf(image.record)];
  const older = read !== undefined && known !== undefined && read < known;
  return derived.is === 'news' && !older && derived.changed.length > 0;
}

/** Takes the records as removed of which there are images, and which are not there any more. */
async function takeGone(
  pool: Pool,
  registry: Registry,
  {
    system,
    type,
    store,
    seen,
    now,
  }: {
    readonly system: string;
    readonly type: RecordType;
    readonly store: RecordStore;
    readonly seen: ReadonlySet<string>;
    readonly now: Date;
  },
): Promise<number> {
  let count = 0;
  let after: string | undefined = '';
  while (after !== undefined) {
    const images: readonly KnownImage[] = await imagesAfter(
      pool,
      { system, recordType: type.name, id: after },
      pageSize,
    );
    const gone: ReceivedEvent[] = [];
    for (const { ref, record } of images.filter((image) => !image.gone && !seen.has(image.ref.id))) {
      // It may have come into the list, or left it, while that was read.
      if (!(await store.get(type.name, ref.id))) gone.push(eventFor({ ref, record }, 'deleted', now));
    }
    count += countTaken(await takeAll(pool, registry, gone));
    after = images.length < pageSize ? undefined : images.at(-1)?.ref.id;
  }
  return count;
}

function eventFor(
  { ref, record, version }: StoredRecord,
  kind: ReceivedEvent['kind'],
  now: Date,
): ReceivedEvent {
  const time = now.toISOString();
  return {
    id: `${refKey(ref)}/${version ?? ''}/${time}`,
    source: catchingUp,
    kind,
    ref,
    time,
    record,
    claimed: [],
  };
}

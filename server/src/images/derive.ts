import {
  deriveChange,
  fieldsOf,
  ownSystem,
  imageAfterWrite,
  refKey,
  type ChangeEvent,
  type Echo,
  type JsonObject,
  type RecordChange,
  type RecordImage,
  type RecordType,
} from '@vast-knot/core';
import type { Runner } from '../db/pool';
import type { ReceivedEvent } from '../inbox/inbox';
import {
  forgetImage,
  keepImages,
  markRemoved,
  readImages,
  type FlyingWrite,
  type KnownImage,
} from './images';

/** An event with what it changed, and whether it tells of nothing but our own writes. */
interface DerivedEvent {
  readonly event: ChangeEvent;
  readonly own: boolean;
}

/** Derives what an event changed from the last image of its record, and keeps the new image. */
export async function deriveAndKeep(
  runner: Runner,
  recordType: RecordType,
  versionOf: VersionOf,
  received: ReceivedEvent,
): Promise<DerivedEvent> {
  const { claimed: _claimed, before: sentBefore, ...event } = received;
  const image = (await readImages(runner, [event.ref])).get(refKey(event.ref));
  if (event.kind === 'deleted') {
    const { removedByUs } = await forgetImage(runner, event.ref);
    const before = image?.record ?? sentBefore;
    return { event: { ...event, ...(before && { before }), changed: [] }, own: removedByUs };
  }
  const derived = deriveAgainst({ recordType, versionOf, received, image });
  await keepImages(runner, [derived.image]);
  return { event: derived.event, own: derived.own };
}

/** Returns the version that a record carries, where its system counts them. */
type VersionOf = (record: JsonObject) => number | undefined;

/** What an event is compared with. */
export interface Comparison {
  readonly recordType: RecordType;
  readonly versionOf: VersionOf;
  readonly received: ReceivedEvent;
  readonly image: RecordImage | undefined;
  /** A write of ours that is on its way: the event is derived as if it had arrived. */
  readonly flying?: FlyingWrite | undefined;
}

/** Returns what an event changed against an image, and the new image. */
export function deriveAgainst({
  recordType,
  versionOf,
  received: { claimed, before: sentBefore, ...event },
  image,
  flying,
}: Comparison): DerivedEvent & { readonly image: KnownImage } {
  // Without an image the sender's own "before" is the next best; without that, its list of changed fields.
  const seen = image ?? (sentBefore && { record: sentBefore, echoes: [] });
  const known = flying
    ? imageAfterWrite(seen ?? { record: flying.before, echoes: [] }, { edits: flying.edits })
    : seen;
  const derived = deriveChange(recordType, known, event.record, versionOf(event.record));
  const changed = known ? derived.changed : claimed;
  return {
    event: { ...event, ...(derived.before && { before: derived.before }), changed },
    own: derived.own,
    image: { ref: event.ref, ...derived.image },
  };
}

/** A write of ours that a system has taken. */
export interface OwnWrite {
  /** The change as it was made, with real ids. */
  readonly change: RecordChange;
  /** The record as it was, for records of which no image is at hand; of one that was created, what its system gave back. */
  readonly before: JsonObject;
  readonly version: string | undefined;
}

/**
 * Takes our own writes, one to a record, into the images, so that their events tell nothing new when they come back.
 * Images are locked in one order everywhere, so that two workers never wait for each other.
 */
export async function rememberWrites(runner: Runner, all: readonly OwnWrite[]): Promise<void> {
  // What we keep ourselves sends no events.
  const told = all.filter(({ change }) => change.ref.system !== ownSystem);
  await markRemoved(
    runner,
    told.filter(({ change }) => change.kind === 'remove').map(({ change }) => change.ref),
  );
  const writes = told.filter(({ change }) => change.kind !== 'remove');
  if (writes.length === 0) return;
  const known = await readImages(
    runner,
    writes.map(({ change }) => change.ref),
  );
  await keepImages(
    runner,
    writes.map(({ change, before, version }): KnownImage => {
      const echo: Echo = {
        edits: fieldsOf(change),
        ...(version !== undefined && { version: Number(version) }),
      };
      const image = known.get(refKey(change.ref)) ?? { record: before, echoes: [] };
      return { ref: change.ref, ...imageAfterWrite(image, echo) };
    }),
  );
}

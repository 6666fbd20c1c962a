import {
  deriveChange,
  fieldsOf,
  imageAfterRemoval,
  imageAfterWrite,
  isBlankJson,
  ownSystem,
  refKey,
  type ChangeEvent,
  type Derived,
  type Echo,
  type JsonObject,
  type RecordChange,
  type RecordImage,
  type RecordType,
  type StoredRecord,
  type VersionOf,
  versionNumber,
} from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { eventOf, type ReceivedEvent } from '../inbox/inbox';
import { keepImages, markRemoved, readImages, type FlyingWrite, type KnownImage } from './images';

/** What an event came to beside the image of its record. */
export type DerivedEvent =
  | { readonly is: 'news'; readonly event: ChangeEvent; readonly own: boolean; readonly image: KnownImage }
  | {
      readonly is: 'late';
      readonly event: ChangeEvent;
      readonly told: number | undefined;
      readonly known: number | undefined;
      readonly own: boolean;
      readonly image: KnownImage;
    }
  /** Whether it is newer than the image has to be seen from the record itself. */
  | { readonly is: 'unsure' };

/** What an event is compared with. */
export interface Comparison {
  readonly recordType: RecordType;
  readonly versionOf: VersionOf;
  readonly received: ReceivedEvent;
  readonly image: (RecordImage & Pick<KnownImage, 'removedByUs'>) | undefined;
  /** A write of ours that is on its way: the event is derived as if it had arrived. */
  readonly flying?: FlyingWrite | undefined;
  /** What was found when the record was looked at for the event. */
  readonly looked?: Looked | undefined;
}

/** The record as it is in its system now; none where it is not there. */
export interface Looked {
  readonly found: StoredRecord | undefined;
}

/** Derives what an event changed from the last image of its record, and keeps the new image. */
export async function deriveAndKeep(
  runner: Runner,
  comparison: Omit<Comparison, 'image'>,
): Promise<DerivedEvent> {
  const { derived, images } = await deriveFrom(runner, [comparison]);
  await keepImages(runner, images);
  return derived[0] ?? { is: 'unsure' };
}

/** Derives what events changed, each of another record, from the last images of their records. Returns the new images, which are to be kept. */
export async function deriveFrom(
  runner: Runner,
  comparisons: readonly Omit<Comparison, 'image'>[],
): Promise<{ readonly derived: readonly DerivedEvent[]; readonly images: readonly KnownImage[] }> {
  const known = await readImages(
    runner,
    comparisons.map(({ received }) => received.ref),
  );
  const derived = comparisons.map((each) =>
    deriveAgainst({ ...each, image: known.get(refKey(each.received.ref)) }),
  );
  return { derived, images: derived.flatMap((each) => (each.is === 'unsure' ? [] : [each.image])) };
}

/** Returns what an event came to against an image, and the new image. */
export function deriveAgainst(comparison: Comparison): DerivedEvent {
  const { recordType, versionOf, received, image, flying, looked } = comparison;
  if (received.kind === 'deleted') return removed(comparison);
  const { claimed, untimed } = received;
  const { before: sentBefore, ...told } = eventOf(received);
  const { ref } = told;
  if (looked && !looked.found) {
    const gone = image ?? { record: told.record, echoes: [], gone: true };
    const event = { ...told, changed: [] };
    return { is: 'late', event, told: undefined, known: undefined, own: false, image: { ...gone, ref } };
  }
  const event = looked?.found ? { ...told, record: looked.found.record } : told;
  // Without an image the sender's own "before" is the next best; without that, its list of changed fields.
  const seen: RecordImage | undefined =
    image ?? (sentBefore && { record: sentBefore, echoes: [], toldAt: longAgo });
  const known = flying
    ? imageAfterWrite(seen ?? { record: flying.before, echoes: [], toldAt: longAgo }, { edits: flying.edits })
    : seen;
  const derived: Derived = deriveChange(
    recordType,
    known,
    {
      record: event.record,
      version: versionOf(event.record),
      time: untimed ? undefined : event.time,
      created: event.kind === 'created',
      fetched: looked?.found !== undefined,
    },
    versionOf,
  );
  switch (derived.is) {
    case 'unsure':
      return derived;
    case 'late':
      return { ...derived, event: { ...event, changed: [] }, image: { ...derived.image, ref } };
    case 'news':
      // Its creation was found by catching up before it was told.
      if (event.kind === 'created' && isTold(image) && derived.changed.length === 0 && !derived.own) {
        const at = versionOf(event.record);
        return {
          is: 'late',
          event: { ...event, changed: [] },
          told: at,
          known: at,
          own: false,
          image: { ...derived.image, ref },
        };
      }
      return {
        is: 'news',
        event: {
          ...event,
          ...(derived.before && { before: derived.before }),
          changed: known && !known.gone ? derived.changed : claimed,
        },
        own: derived.own,
        image: { ...derived.image, ref },
      };
  }
}

/** Returns whether an event has told of a record that is there; one that was only learnt may be told as new still. */
function isTold(image: RecordImage | undefined): boolean {
  return image !== undefined && !image.gone && image.toldAt !== undefined;
}

/** Everything is later than this. */
const longAgo = new Date(0).toISOString();

/** Returns what the removal of a record came to: one from before a newer state is late. */
function removed({ versionOf, received, image, looked }: Comparison): DerivedEvent {
  const { untimed } = received;
  const { before: sentBefore, ...told } = eventOf(received);
  const { ref } = told;
  const [version, known] = [versionOf(told.record), image && versionOf(image.record)];
  const event = { ...told, changed: [] };
  if (image && !image.gone) {
    const ordered = version !== undefined && known !== undefined;
    if (looked?.found || (ordered && version < known))
      return { is: 'late', event, told: version, known, own: false, image: { ...image, ref } };
    const doubtful = untimed || Date.parse(told.time) < Date.parse(image.toldAt ?? longAgo);
    if (!ordered && doubtful && !looked) return { is: 'unsure' };
  }
  const before = image && !isBlankJson(image.record) ? image.record : sentBefore;
  return {
    is: 'news',
    event: { ...event, ...(before && { before }) },
    own: image?.removedByUs ?? false,
    image: { ref, ...imageAfterRemoval(image, told.record, untimed ? undefined : told.time) },
  };
}

/** A write of ours that a system has taken, or may have taken. */
export interface OwnWrite {
  /** The change as it was made, with real ids. */
  readonly change: RecordChange;
  /** The record as it was, for records of which no image is at hand; of one that was created, what its system gave back. */
  readonly before: JsonObject;
  readonly version: string | undefined;
  /** No answer came. */
  readonly unsure?: true;
}

/**
 * Returns the images that our own writes, in their order, make; they are to be kept, so that their events tell nothing new when they come back.
 * Images are locked in one order everywhere, so that two workers never wait for each other.
 */
export async function imagesAfterWrites(
  runner: Runner,
  all: readonly OwnWrite[],
): Promise<readonly KnownImage[]> {
  // What we keep ourselves sends no events.
  const told = all.filter(({ change }) => change.ref.system !== ownSystem);
  await markRemoved(
    runner,
    told.filter(({ change, unsure }) => change.kind === 'remove' && !unsure).map(({ change }) => change.ref),
  );
  const writes = told.filter(({ change }) => change.kind !== 'remove');
  if (writes.length === 0) return [];
  const known = await readImages(
    runner,
    writes.map(({ change }) => change.ref),
  );
  const after = new Map<string, KnownImage>();
  for (const { change, before, version, unsure } of writes) {
    const key = refKey(change.ref);
    const number = versionNumber(version);
    const echo: Echo = {
      edits: fieldsOf(change),
      ...(number !== undefined && { version: number }),
      ...(unsure && { unsure }),
    };
    const image = (change.kind === 'edit' && (after.get(key) ?? known.get(key))) || {
      record: before,
      echoes: [],
    };
    after.set(key, { ref: change.ref, ...imageAfterWrite(image, echo) });
  }
  return [...after.values()];
}

/** Takes our own writes into the images. */
export async function rememberWrites(runner: Runner, all: readonly OwnWrite[]): Promise<void> {
  await keepImages(runner, await imagesAfterWrites(runner, all));
}

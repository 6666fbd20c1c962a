import {
  deriveChange,
  ownSystem,
  imageAfterWrite,
  refKey,
  type ChangeEvent,
  type Echo,
  type FieldEdit,
  type JsonObject,
  type RecordImage,
  type RecordRef,
  type RecordType,
} from '@vast-knot/core';
import type { Runner } from '../db/pool';
import type { ReceivedEvent } from '../inbox/inbox';
import { keepImages, readImages, type FlyingWrite, type KnownImage } from './images';

/** An event with what it changed, and whether it tells of nothing but our own writes. */
export interface DerivedEvent {
  readonly event: ChangeEvent;
  readonly own: boolean;
}

/** Derives what an event changed from the last image of its record, and keeps the new image. */
export async function deriveAndKeep(
  runner: Runner,
  recordType: RecordType,
  versionField: string | undefined,
  received: ReceivedEvent,
): Promise<DerivedEvent> {
  const { claimed: _claimed, before: sentBefore, ...event } = received;
  const image = (await readImages(runner, [event.ref])).get(refKey(event.ref));
  if (event.kind === 'deleted') {
    const own = await removedByUs(runner, event.ref);
    await runner.query(
      'DELETE FROM images WHERE system = $1 AND record_type = $2 AND record_id = $3',
      key(event.ref),
    );
    const before = image?.record ?? sentBefore;
    return { event: { ...event, ...(before && { before }), changed: [] }, own };
  }
  const derived = deriveAgainst(recordType, versionField, received, image, undefined);
  await keepImages(runner, [derived.image]);
  return { event: derived.event, own: derived.own };
}

/** Derives what an event changed against an image, as if a write that is on its way had arrived. */
export function deriveAgainst(
  recordType: RecordType,
  versionField: string | undefined,
  { claimed, before: sentBefore, ...event }: ReceivedEvent,
  image: RecordImage | undefined,
  flying: FlyingWrite | undefined,
): DerivedEvent & { readonly image: KnownImage } {
  // Without an image the sender's own "before" is the next best; without that, its list of changed fields.
  const seen = image ?? (sentBefore && { record: sentBefore, echoes: [] });
  const known = flying
    ? imageAfterWrite(seen ?? { record: flying.before, echoes: [] }, { edits: flying.edits })
    : seen;
  const derived = deriveChange(recordType, known, event.record, versionOf(event.record, versionField));
  const changed = known ? derived.changed : claimed;
  return {
    event: { ...event, ...(derived.before && { before: derived.before }), changed },
    own: derived.own,
    image: { ref: event.ref, ...derived.image },
  };
}

/** A write of ours that a system has taken. */
export interface OwnWrite {
  readonly ref: RecordRef;
  readonly edits: readonly FieldEdit[];
  /** The record as it was, for records of which no image is at hand. */
  readonly before: JsonObject;
  readonly version: string | undefined;
  readonly removed: boolean;
}

/**
 * Takes our own writes, one to a record, into the images, so that their events tell nothing new when they come back.
 * Images are locked in one order everywhere, so that two workers never wait for each other.
 */
export async function rememberWrites(runner: Runner, all: readonly OwnWrite[]): Promise<void> {
  await rememberRemovals(runner, all);
  // What we keep ourselves sends no events.
  const writes = all.filter(({ removed, ref }) => !removed && ref.system !== ownSystem);
  if (writes.length === 0) return;
  const known = await readImages(
    runner,
    writes.map(({ ref }) => ref),
  );
  await keepImages(
    runner,
    writes.map(({ ref, edits, before, version }): KnownImage => {
      const echo: Echo = { edits, ...(version !== undefined && { version: Number(version) }) };
      return { ref, ...imageAfterWrite(known.get(refKey(ref)) ?? { record: before, echoes: [] }, echo) };
    }),
  );
}

/** Records that we removed ourselves: the events that tell so, when they come, tell nothing new. */
async function rememberRemovals(runner: Runner, writes: readonly OwnWrite[]): Promise<void> {
  const gone = writes.filter(({ removed, ref }) => removed && ref.system !== ownSystem);
  if (gone.length === 0) return;
  await runner.query(
    `INSERT INTO images (system, record_type, record_id, record, removed)
     SELECT system, type, id, '{}', true FROM unnest($1::text[], $2::text[], $3::text[]) AS gone (system, type, id)
     ORDER BY system, type, id
     ON CONFLICT (system, record_type, record_id) DO UPDATE SET removed = true`,
    [gone.map(({ ref }) => ref.system), gone.map(({ ref }) => ref.recordType), gone.map(({ ref }) => ref.id)],
  );
}

async function removedByUs(runner: Runner, ref: RecordRef): Promise<boolean> {
  const { rows } = await runner.query<{ removed: boolean }>(
    'SELECT removed FROM images WHERE system = $1 AND record_type = $2 AND record_id = $3',
    key(ref),
  );
  return rows[0]?.removed ?? false;
}

function key(ref: RecordRef): string[] {
  return [ref.system, ref.recordType, ref.id];
}

function versionOf(record: JsonObject, field: string | undefined): number | undefined {
  const version = field === undefined ? undefined : Number(record[field]);
  return version !== undefined && Number.isFinite(version) ? version : undefined;
}

import { changedPaths, sameValue } from '../model/equal';
import type { JsonObject } from '../model/json';
import { readPath, writePath } from '../model/json';
import type { FieldEdit } from '../change/recordChange';
import { fieldAt, type RecordType } from '../model/system';

/**
 * The last state of a record that was seen, from which it is derived what an event changed. `echoes` are writes of our
 * own whose events have not come back yet.
 */
export interface RecordImage {
  readonly record: JsonObject;
  readonly echoes: readonly Echo[];
}

/** Our own write: the version it gave the record, where the system counts versions, and the values it wrote. */
export interface Echo {
  readonly version?: number;
  readonly edits: readonly FieldEdit[];
}

interface Derived {
  readonly before: JsonObject | undefined;
  readonly changed: readonly string[];
  /** The image to keep. */
  readonly image: RecordImage;
  /** Whether the event tells of nothing but our own writes. */
  readonly own: boolean;
}

/**
 * Derives what changed from the image and the record as the system sends it now. An event that is older than a write
 * of ours cannot know of it: the fields we wrote keep our values, so that neither is their old value taken for a change
 * nor the change of another field lost.
 */
export function deriveChange(
  recordType: RecordType,
  image: RecordImage | undefined,
  record: JsonObject,
  version: number | undefined,
): Derived {
  if (!image) return { before: undefined, changed: [], image: { record, echoes: [] }, own: false };
  const later = image.echoes.filter((echo) => isLater(echo, version));
  let seen = record;
  for (const echo of later) {
    for (const edit of echo.edits) seen = writePath(seen, edit.path, edit.after);
  }
  const changed = changedPaths(recordType.fields, image.record, seen);
  const own = changed.length === 0 && image.echoes.some((echo) => confirms(recordType, echo, record));
  return { before: image.record, changed, image: { record: seen, echoes: later }, own };
}

/** Returns the image after a write of ours: only what we wrote is taken over, what others changed is left to their events. */
export function imageAfterWrite(image: RecordImage, echo: Echo): RecordImage {
  let { record } = image;
  for (const edit of echo.edits) record = writePath(record, edit.path, edit.after);
  return { record, echoes: [...image.echoes, echo] };
}

function isLater(echo: Echo, version: number | undefined): boolean {
  return echo.version !== undefined && version !== undefined && echo.version > version;
}

function confirms(recordType: RecordType, echo: Echo, record: JsonObject): boolean {
  return echo.edits.every((edit) =>
    sameValue(fieldAt(recordType.fields, edit.path), readPath(record, edit.path), edit.after),
  );
}

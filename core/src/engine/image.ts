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
  /** The time of the newest event that told of it, ISO 8601; for systems that count no versions. */
  readonly toldAt?: string;
  /** It was removed. What tells of it from before is late. */
  readonly gone?: boolean;
}

/** Our own write: the version it gave the record, where the system counts versions, and the values it wrote. */
export interface Echo {
  readonly version?: number;
  readonly edits: readonly FieldEdit[];
  /** No answer came, so that it may have been made or not. The image does not have its values. */
  readonly unsure?: true;
}

/** The state of a record as an event, or a fetch, tells it. */
export interface ToldState {
  readonly record: JsonObject;
  /** The version, or the time of the last change as a number, that the record carries, where its system keeps one. */
  readonly version: number | undefined;
  /** When the event says that it happened; undefined where it does not say. */
  readonly time?: string | undefined;
  /** Whether the record came into being with it. */
  readonly created?: boolean;
  /** It was just fetched, so that nothing can be newer. */
  readonly fetched?: boolean;
}

export type Derived =
  | {
      readonly is: 'news';
      readonly before: JsonObject | undefined;
      readonly changed: readonly string[];
      /** The image to keep. */
      readonly image: RecordImage;
      /** Whether it tells of nothing but our own writes. */
      readonly own: boolean;
    }
  /** It is older than the image, and changes nothing. */
  | {
      readonly is: 'late';
      /** The version that it tells of. */
      readonly told: number | undefined;
      /** The version that was known already; undefined where the record is known to be removed. */
      readonly known: number | undefined;
      readonly image: RecordImage;
      readonly own: boolean;
    }
  /** Nothing says whether it is newer than the image: the record has to be fetched. */
  | { readonly is: 'unsure' };

/** Returns the version that a record carries, where its system keeps one. */
export type VersionOf = (record: JsonObject) => number | undefined;

/** Echoes kept of one record. Of more, the oldest are forgotten: their events would then count as somebody else's. */
const mostEchoes = 16;

/**
 * Derives what changed from the image and the state that is told. A state that is older than the image changes nothing. One that is
 * older than a write of ours cannot know of it: the fields we wrote keep our values, so that neither is their old value taken for
 * a change nor the change of another field lost.
 */
export function deriveChange(
  recordType: RecordType,
  image: RecordImage | undefined,
  told: ToldState,
  versionOf: VersionOf,
): Derived {
  const { record, version, time } = told;
  const toldAt = laterOf(image?.toldAt, time);
  if (!image) return firstSight(record, toldAt);
  const known = versionOf(image.record);
  const ordered = version !== undefined && known !== undefined;
  if (image.gone) {
    const anew = told.fetched || (told.created && ordered && version > known);
    if (anew) return firstSight(record, toldAt);
    // A record that is made anew may count from the beginning.
    return ordered && version <= known && !told.created
      ? { is: 'late', told: version, known: undefined, own: false, image }
      : { is: 'unsure' };
  }
  if (!told.fetched && ordered && version < known) {
    const own = image.echoes.some((echo) => echo.version === version);
    const echoes = image.echoes.filter((echo) => echo.version !== version);
    return { is: 'late', told: version, known, own, image: { ...image, echoes } };
  }
  const later = told.fetched ? [] : image.echoes.filter((echo) => !echo.unsure && isLater(echo, version));
  const seen = withEdits(record, later);
  const changed = changedPaths(recordType.fields, image.record, seen);
  const sure =
    told.fetched || ordered || (isAfter(time, image.toldAt) && !contradicts(recordType, image, record));
  if (changed.length > 0 && !sure) return { is: 'unsure' };
  const confirmed = image.echoes.filter((echo) => confirms(recordType, echo, record));
  const unsure = confirmed.filter((echo) => echo.unsure).flatMap(({ edits }) => edits);
  return {
    is: 'news',
    before: image.record,
    changed,
    own: confirmed.length > 0 && changed.every((path) => unsure.some((edit) => edit.path === path)),
    image: {
      record: seen,
      // An event that was overtaken may still come; it is known by its version then.
      echoes: image.echoes.filter(
        (echo) =>
          !told.fetched && (later.includes(echo) || (isBefore(echo, version) && !confirmed.includes(echo))),
      ),
      ...(toldAt !== undefined && { toldAt }),
    },
  };
}

function firstSight(record: JsonObject, toldAt: string | undefined): Derived {
  const image = { record, echoes: [], ...(toldAt !== undefined && { toldAt }) };
  return { is: 'news', before: undefined, changed: [], image, own: false };
}

/** Returns the image after a write of ours: only what we wrote is taken over, what others changed is left to their events. */
export function imageAfterWrite(image: RecordImage, echo: Echo): RecordImage {
  const record = echo.unsure ? image.record : withEdits(image.record, [echo]);
  return { ...image, record, echoes: [...image.echoes, echo].slice(-mostEchoes) };
}

/** Returns the image of a record that was removed: what it was last, so that what comes late is known to be late. */
export function imageAfterRemoval(
  image: RecordImage | undefined,
  record: JsonObject,
  time?: string,
): RecordImage {
  const toldAt = laterOf(image?.toldAt, time);
  return {
    record: { ...image?.record, ...record },
    echoes: [],
    gone: true,
    ...(toldAt !== undefined && { toldAt }),
  };
}

function withEdits(record: JsonObject, echoes: readonly Echo[]): JsonObject {
  return echoes
    .flatMap(({ edits }) => edits)
    .reduce((made, { path, after }) => writePath(made, path, after), record);
}

function isLater(echo: Echo, version: number | undefined): boolean {
  return echo.version !== undefined && version !== undefined && echo.version > version;
}

function isBefore(echo: Echo, version: number | undefined): boolean {
  return echo.version !== undefined && version !== undefined && echo.version < version;
}

function confirms(recordType: RecordType, echo: Echo, record: JsonObject): boolean {
  return echo.edits.every((edit) =>
    sameValue(fieldAt(recordType.fields, edit.path), readPath(record, edit.path), edit.after),
  );
}

/** Returns whether a state without a version holds something else where we wrote: it may be from before the write. */
function contradicts(recordType: RecordType, { echoes }: RecordImage, record: JsonObject): boolean {
  return echoes.some((echo) => !confirms(recordType, echo, record));
}

function isAfter(time: string | undefined, known: string | undefined): boolean {
  return time !== undefined && known !== undefined && Date.parse(time) > Date.parse(known);
}

function laterOf(a: string | undefined, b: string | undefined): string | undefined {
  if (a === undefined || b === undefined) return a ?? b;
  return Date.parse(b) > Date.parse(a) ? b : a;
}

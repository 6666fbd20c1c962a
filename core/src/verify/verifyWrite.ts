import { sameValue } from '../model/equal';
import { readPath, type Json, type JsonObject } from '../model/json';
import { fieldAt, type RecordType } from '../model/system';
import { fieldsOf } from '../change/fields';
import type { RecordChange } from '../change/recordChange';

/** What became of a value that a run wrote. */
export type Standing =
  | 'holds'
  /** It holds something else than was written, and than was there before. */
  | 'changed since'
  /** It holds what was there before the write. */
  | 'never arrived'
  /** The record is no longer there. */
  | 'gone';

export interface VerifiedField {
  readonly path: string;
  readonly written: Json;
  readonly now: Json;
  readonly standing: Standing;
}

/** Compares what a run wrote with the record as its system has it now; `undefined` where it has none. */
export function verifyWrite(
  change: RecordChange,
  record: JsonObject | undefined,
  type: RecordType | undefined,
): readonly VerifiedField[] {
  if (change.kind === 'remove')
    return [
      {
        path: '',
        written: null,
        now: record ? 'is there' : null,
        standing: record ? 'changed since' : 'holds',
      },
    ];
  return fieldsOf(change).map(({ path, before, after }): VerifiedField => {
    const field = type && fieldAt(type.fields, path);
    const now = record ? (readPath(record, path) ?? null) : null;
    const written = after ?? null;
    const standing = !record
      ? 'gone'
      : sameValue(field, now, written)
        ? 'holds'
        : sameValue(field, now, before ?? null)
          ? 'never arrived'
          : 'changed since';
    return { path, written, now, standing };
  });
}

import { sameValue } from '../model/equal';
import { readPath, type Json, type JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';
import { fieldAt, type RecordType } from '../model/system';
import type { FieldEdit } from '../change/recordChange';

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

/** A write as it was noted when its system took it. */
export interface DoneWrite {
  readonly ref: RecordRef;
  readonly edits: readonly FieldEdit[];
  readonly removes?: true;
}

/** Holds what a run wrote against the record as its system has it now; `undefined` where it has none. */
export function verifyWrite(
  { edits, removes }: DoneWrite,
  record: JsonObject | undefined,
  type: RecordType | undefined,
): readonly VerifiedField[] {
  if (removes)
    return [
      {
        path: '',
        written: null,
        now: record ? 'is there' : null,
        standing: record ? 'changed since' : 'holds',
      },
    ];
  return edits.map(({ path, before, after }): VerifiedField => {
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

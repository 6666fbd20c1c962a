import type { Operation } from 'rfc6902';
import type { JsonObject } from '../model/json';
import type { Applied, RecordChange } from './changeKind';
import { createChange } from './create';
import { editChange } from './edit';
import { removeChange } from './remove';

export type { Applied, FieldEdit, RecordChange } from './changeKind';

/** Returns the record as it is after the change; fails when the record is not what the change was made for. */
export function applyChange(change: RecordChange, record: JsonObject | undefined): Applied {
  switch (change.kind) {
    case 'edit':
      return editChange.apply(change, record);
    case 'create':
      return createChange.apply(change, record);
    case 'remove':
      return removeChange.apply(change, record);
  }
}

/** Returns the change that undoes this one. */
export function invertChange(change: RecordChange): RecordChange {
  switch (change.kind) {
    case 'edit':
      return editChange.invert(change);
    case 'create':
      return createChange.invert(change);
    case 'remove':
      return removeChange.invert(change);
  }
}

/** Returns the change as operations of RFC 6902 on the record's document; each guarded by a `test` of the value before. */
export function changeToJsonPatch(change: RecordChange): Operation[] {
  switch (change.kind) {
    case 'edit':
      return editChange.toJsonPatch(change);
    case 'create':
      return createChange.toJsonPatch(change);
    case 'remove':
      return removeChange.toJsonPatch(change);
  }
}

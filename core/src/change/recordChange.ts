import type { Operation } from 'rfc6902';
import type { JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';
import { createChange } from './create';
import { editChange } from './edit';
import { removeChange } from './remove';

/** One field of a change: what it held and what it will hold. `undefined` means that the field is absent. */
export interface FieldEdit {
  readonly path: string;
  readonly before: JsonObject[string];
  readonly after: JsonObject[string];
}

/**
 * One change of one record. Undo, difference, outcome and audit trail all rest on it: it can be applied, inverted and
 * carried as JSON.
 */
export type RecordChange =
  | { readonly kind: 'edit'; readonly ref: RecordRef; readonly edits: readonly FieldEdit[] }
  | { readonly kind: 'create'; readonly ref: RecordRef; readonly record: JsonObject }
  | { readonly kind: 'remove'; readonly ref: RecordRef; readonly record: JsonObject };

/** The record after the change (undefined once removed), or the sentence that says why it does not fit. */
export type Applied =
  | { readonly ok: true; readonly record: JsonObject | undefined }
  | { readonly ok: false; readonly because: string };

/** What each kind of change can do. */
export interface ChangeKindRules<C extends RecordChange> {
  apply(change: C, record: JsonObject | undefined): Applied;
  invert(change: C): RecordChange;
  toJsonPatch(change: C): Operation[];
}

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

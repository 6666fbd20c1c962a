import type { Operation } from 'rfc6902';
import type { JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';

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

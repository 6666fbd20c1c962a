import type { JsonObject } from '../model/json';
import { editsBetween } from './edit';
import { applyChange, type FieldEdit, type RecordChange } from './recordChange';

/** Returns the fields that a change gives values to: those that are edited, or all that a new record has. None for a removal. */
export function fieldsOf(change: RecordChange): readonly FieldEdit[] {
  switch (change.kind) {
    case 'edit':
      return change.edits;
    case 'create':
      return editsBetween({}, change.record);
    case 'remove':
      return [];
  }
}

/**
 * Returns the record that a change leaves behind when it is made to `before`; undefined for a removal.
 *
 * @throws Error when the change was made for another record.
 */
export function recordAfter({
  change,
  before,
}: {
  readonly change: RecordChange;
  readonly before: JsonObject;
}): JsonObject | undefined {
  const applied = applyChange(change, change.kind === 'create' ? undefined : before);
  if (!applied.ok) throw new Error(`a change does not fit its own record: ${applied.because}`);
  return applied.record;
}

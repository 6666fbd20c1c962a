import { isJsonObject, type Json, type JsonObject } from '../model/json';
import { editsBetween } from './edit';
import { applyChange, type FieldEdit, type RecordChange } from './recordChange';

/**
 * Returns the fields that a change gives values to: those that are edited, or all that a new record has. None for a removal. A field
 * inside an object is named by its path (`address.gate`), also where the object comes or goes as a whole; lists are one value.
 */
export function fieldsOf(change: RecordChange): readonly FieldEdit[] {
  switch (change.kind) {
    case 'edit':
      return change.edits.flatMap(leafEdits);
    case 'create':
      return editsBetween({}, change.record).flatMap(leafEdits);
    case 'remove':
      return [];
  }
}

function leafEdits(edit: FieldEdit): readonly FieldEdit[] {
  const { path, before, after } = edit;
  const whole = (value: Json | undefined) => isJsonObject(value) && Object.keys(value).length > 0;
  if (!(whole(before) && !isJsonObject(after)) && !(whole(after) && !isJsonObject(before))) return [edit];
  return editsBetween(asObject(before), asObject(after), `${path}.`).flatMap(leafEdits);
}

const asObject = (value: Json | undefined): JsonObject => (isJsonObject(value) ? value : {});

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

import type { Json, JsonObject } from '../model/json';
import type { RecordChange } from './recordChange';

/** Returns JSON in which ids that stood for created records are those that their systems gave. */
export function withRealIds(value: Json, created: ReadonlyMap<string, string>): Json {
  if (typeof value === 'string') return created.get(value) ?? value;
  if (Array.isArray(value)) return value.map((part) => withRealIds(part as Json, created));
  return typeof value === 'object' && value !== null
    ? recordWithRealIds(value as JsonObject, created)
    : value;
}

/** Returns the same for a record. */
export function recordWithRealIds(record: JsonObject, created: ReadonlyMap<string, string>): JsonObject {
  return Object.fromEntries(
    Object.entries(record).map(([name, part]) => [name, withRealIds(part ?? null, created)]),
  );
}

/** Returns the same for a change: in the values that it gives, and in the id of the record that it is made to. */
export function changeWithRealIds(change: RecordChange, created: ReadonlyMap<string, string>): RecordChange {
  const ref = { ...change.ref, id: created.get(change.ref.id) ?? change.ref.id };
  switch (change.kind) {
    case 'edit':
      return {
        ...change,
        ref,
        edits: change.edits.map((edit) =>
          edit.after === undefined ? edit : { ...edit, after: withRealIds(edit.after, created) },
        ),
      };
    case 'create':
      return { ...change, record: recordWithRealIds(change.record, created) };
    case 'remove':
      return { ...change, ref };
  }
}

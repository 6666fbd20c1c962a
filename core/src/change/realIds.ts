import type { Json, JsonObject } from '../model/json';

/** JSON in which ids that stood for created records are now those that their systems gave. */
export function withRealIds(value: Json, created: ReadonlyMap<string, string>): Json {
  if (typeof value === 'string') return created.get(value) ?? value;
  if (Array.isArray(value)) return value.map((part) => withRealIds(part as Json, created));
  return typeof value === 'object' && value !== null
    ? recordWithRealIds(value as JsonObject, created)
    : value;
}

/** The same for a record. */
export function recordWithRealIds(record: JsonObject, created: ReadonlyMap<string, string>): JsonObject {
  return Object.fromEntries(
    Object.entries(record).map(([name, part]) => [name, withRealIds(part ?? null, created)]),
  );
}

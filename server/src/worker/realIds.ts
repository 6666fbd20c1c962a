import type { Json } from '@vast-knot/core';

/** JSON in which ids that stood for created records are now those that their systems gave. */
export function withRealIds(value: Json, created: ReadonlyMap<string, string>): Json {
  if (typeof value === 'string') return created.get(value) ?? value;
  if (Array.isArray(value)) return value.map((part) => withRealIds(part as Json, created));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([name, part]) => [name, withRealIds(part ?? null, created)]),
  );
}

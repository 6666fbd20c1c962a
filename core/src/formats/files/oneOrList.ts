import type { Json } from '../../model/json';

/** Returns one value by itself, and several as a list; null where there is none. */
export function oneOrList(values: readonly Json[]): Json {
  const there = values.filter((value) => value !== null);
  return there.length > 1 ? there : (there[0] ?? null);
}

import { closest } from 'fastest-levenshtein';

/** “Did you mean …?”, when a name comes near enough. */
export function nearest(wanted: string, names: readonly string[]): string {
  if (names.length === 0) return '';
  const near = closest(
    wanted.toLowerCase(),
    names.map((name) => name.toLowerCase()),
  );
  const found = names.find((name) => name.toLowerCase() === near);
  return found === undefined ? '' : ` Did you mean “${found}”?`;
}

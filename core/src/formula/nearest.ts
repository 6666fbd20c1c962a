import { closest, distance } from 'fastest-levenshtein';
import type { Span } from './error';
import { FormulaError } from './error';

/** Returns the name that comes nearest to what was written, when it comes near enough to be meant. */
export function nearestName(wanted: string, names: readonly string[]): string | undefined {
  if (names.length === 0) return undefined;
  const near = closest(
    wanted.toLowerCase(),
    names.map((name) => name.toLowerCase()),
  );
  const found = names.find((name) => name.toLowerCase() === near);
  const enough = Math.max(2, Math.ceil(wanted.length * 0.6));
  return found !== undefined && distance(wanted.toLowerCase(), near) <= enough ? found : undefined;
}

/** Returns an error about a name that nothing has, with “Did you mean …?” when another name comes near enough. */
export function unknownName(
  message: string,
  wanted: string,
  names: readonly string[],
  place: Span,
): FormulaError {
  const near = nearestName(wanted, names);
  return near === undefined
    ? new FormulaError('name', message, place)
    : new FormulaError('name', `${message} Did you mean “${near}”?`, place, { wrong: wanted, right: near });
}

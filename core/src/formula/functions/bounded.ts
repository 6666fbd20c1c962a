import { FormulaError } from '../error';
import { limits } from '../limits';
import type { Value } from '../value';

/** Returns text that a function made, or an error when it is longer than a formula may make. */
export function boundedText(value: string): string | FormulaError {
  return value.length <= limits.text ? value : tooLong();
}

export function tooLong(): FormulaError {
  return new FormulaError(
    'limit',
    `A formula may make text of ${limits.text.toLocaleString('en')} characters.`,
  );
}

/** Returns a list that a function made, or an error when it has more elements than a formula may make. */
export function boundedList(values: readonly Value[]): readonly Value[] | FormulaError {
  return values.length <= limits.items
    ? values
    : new FormulaError('limit', `A formula may make lists of ${limits.items.toLocaleString('en')} elements.`);
}

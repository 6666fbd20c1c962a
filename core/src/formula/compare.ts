import { Temporal } from 'temporal-polyfill';
import { sameValue } from '../model/equal';
import { isJsonObject } from '../model/json';
import { FormulaError } from './error';
import { compareNumbers } from './numeric';
import { isDate, isInstant, isList, isNumberValue, isObjectValue, typeName, type Value } from './value';

/**
 * Below zero, zero or above zero for two values of one type, neither blank nor an error. Text is compared by code
 * point, so that the order is the same on every machine.
 */
export function compareValues(a: Value, b: Value): number | FormulaError {
  if (typeof a === 'string' && typeof b === 'string') return a === b ? 0 : compareCodePoints(a, b);
  if (isNumberValue(a) && isNumberValue(b)) return compareNumbers(a, b);
  if (typeof a === 'boolean' && typeof b === 'boolean') return Number(a) - Number(b);
  if (isDate(a) && isDate(b)) return Temporal.PlainDate.compare(a, b);
  if (isInstant(a) && isInstant(b)) return Temporal.Instant.compare(a, b);
  return new FormulaError('type', `${capital(typeName(a))} cannot be compared with ${typeName(b)}.`);
}

/** Equality as `=` sees it: blank equals blank and empty text, and differs from everything else. */
export function equalValues(a: Value, b: Value): boolean | FormulaError {
  if (typeof a === 'string' && typeof b === 'string') return a === b;
  if (a instanceof FormulaError) return a;
  if (b instanceof FormulaError) return b;
  if (isBlank(a) || isBlank(b)) return isBlank(a) && isBlank(b);
  if (isList(a) && isList(b)) {
    return a.length === b.length && a.every((item, at) => equalValues(item, b[at] ?? null) === true);
  }
  if (isJsonObject(a) && isJsonObject(b) && isObjectValue(a) && isObjectValue(b))
    return sameValue(undefined, a, b);
  const order = compareValues(a, b);
  return order instanceof FormulaError ? order : order === 0;
}

/** Blank as formulas see it: blank, empty text, and a list or an object with nothing in it. */
export function isBlank(value: Value): boolean {
  if (typeof value !== 'object' || value === null) return value === null || value === '';
  return isList(value) ? value.length === 0 : isObjectValue(value) && Object.keys(value).length === 0;
}

function compareCodePoints(a: string, b: string): number {
  const left = a[Symbol.iterator]();
  const right = b[Symbol.iterator]();
  for (;;) {
    const x = left.next();
    const y = right.next();
    if (x.done || y.done) return Number(y.done ?? false) - Number(x.done ?? false);
    const difference = (x.value.codePointAt(0) ?? 0) - (y.value.codePointAt(0) ?? 0);
    if (difference !== 0) return difference;
  }
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

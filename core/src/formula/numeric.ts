import type Decimal from 'decimal.js';
import { FormulaError } from './error';
import { Exact, Rounded, settleNumber, type NumberValue } from './value';

/** What arithmetic gives: a number, or an error where it would have more digits than a number may. */
type Computed = NumberValue | FormulaError;

/** Exact arithmetic. Small whole numbers take the short way; whatever leaves their range becomes an exact decimal. */
export function add(a: NumberValue, b: NumberValue): Computed {
  if (typeof a === 'number' && typeof b === 'number' && Number.isSafeInteger(a + b)) return a + b;
  return settleNumber(Exact.add(a, b));
}

export function subtract(a: NumberValue, b: NumberValue): Computed {
  if (typeof a === 'number' && typeof b === 'number' && Number.isSafeInteger(a - b)) return a - b;
  return settleNumber(Exact.sub(a, b));
}

export function multiply(a: NumberValue, b: NumberValue): Computed {
  if (typeof a === 'number' && typeof b === 'number' && Number.isSafeInteger(a * b)) return a * b + 0;
  return settleNumber(Exact.mul(a, b));
}

/** Rounds to 34 digits: the one operation that cannot keep them all. */
export function divide(a: NumberValue, b: NumberValue): Computed {
  return isZero(b) ? byZero() : settleNumber(Rounded.div(a, b));
}

/** Returns how many whole times a number holds another, cut towards zero, and what is left then; all of it exact. */
export function wholeTimes(
  a: NumberValue,
  b: NumberValue,
): { readonly times: Decimal; readonly left: Decimal } | FormulaError {
  if (isZero(b)) return byZero();
  const times = new Exact(a).divToInt(b);
  return { times, left: Exact.sub(a, times.mul(b)) };
}

/** Exact for whole exponents from 0 on, and otherwise rounded to 34 digits. */
export function power(a: NumberValue, b: NumberValue): Computed {
  if (new Exact(b).abs().gt(1000)) return new FormulaError('limit', 'The exponent may be 1000 at most.');
  const keepsAll = typeof b === 'number' && b >= 0;
  const result = keepsAll ? Exact.pow(a, b) : Rounded.pow(a, b);
  return result.isFinite()
    ? settleNumber(result)
    : new FormulaError('value', 'This power has no finite value.');
}

function byZero(): FormulaError {
  return new FormulaError('divide', 'This divides by zero.');
}

export function negate(a: NumberValue): NumberValue {
  return typeof a === 'number' ? 0 - a : a.neg();
}

/** Below zero, zero, or above zero, as a is less than, equal to or greater than b. */
export function compareNumbers(a: NumberValue, b: NumberValue): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  if (typeof a === 'number') return -compareNumbers(b, a);
  if (b === 0) return a.isZero() ? 0 : a.isNegative() ? -1 : 1;
  return a.cmp(b);
}

export function isZero(a: NumberValue): boolean {
  return typeof a === 'number' ? a === 0 : a.isZero();
}

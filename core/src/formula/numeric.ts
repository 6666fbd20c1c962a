import { FormulaError } from './error';
import { Exact, settleNumber, type NumberValue } from './value';

/** Exact arithmetic. Small whole numbers take the short way; whatever leaves their range becomes an exact decimal. */
export function add(a: NumberValue, b: NumberValue): NumberValue {
  if (typeof a === 'number' && typeof b === 'number' && Number.isSafeInteger(a + b)) return a + b;
  return settleNumber(Exact.add(a, b));
}

export function subtract(a: NumberValue, b: NumberValue): NumberValue {
  if (typeof a === 'number' && typeof b === 'number' && Number.isSafeInteger(a - b)) return a - b;
  return settleNumber(Exact.sub(a, b));
}

export function multiply(a: NumberValue, b: NumberValue): NumberValue {
  if (typeof a === 'number' && typeof b === 'number' && Number.isSafeInteger(a * b)) return a * b + 0;
  return settleNumber(Exact.mul(a, b));
}

export function divide(a: NumberValue, b: NumberValue): NumberValue | FormulaError {
  if (isZero(b)) return new FormulaError('divide', 'This divides by zero.');
  return settleNumber(Exact.div(a, b));
}

export function power(a: NumberValue, b: NumberValue): NumberValue | FormulaError {
  if (new Exact(b).abs().gt(1000)) {
    return new FormulaError('limit', 'The exponent may be 1000 at most.');
  }
  const result = Exact.pow(a, b);
  if (!result.isFinite()) return new FormulaError('value', 'This power has no finite value.');
  return settleNumber(result);
}

export function negate(a: NumberValue): NumberValue {
  return typeof a === 'number' ? 0 - a : settleNumber(a.neg());
}

/** Below zero, zero, or above zero, as a is less than, equal to or greater than b. */
export function compareNumbers(a: NumberValue, b: NumberValue): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  return new Exact(a).cmp(b);
}

export function isZero(a: NumberValue): boolean {
  return typeof a === 'number' ? a === 0 : a.isZero();
}

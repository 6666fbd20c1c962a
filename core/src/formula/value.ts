import Decimal from 'decimal.js';
import { Temporal } from 'temporal-polyfill';
import { printJson } from '../model/jsonText';
import { FormulaError } from './error';
import { limits } from './limits';

const digits = { rounding: Decimal.ROUND_HALF_UP, toExpNeg: -40, toExpPos: 40, modulo: Decimal.ROUND_FLOOR };

/** Exact decimals: sums and products keep every digit, up to more than a number may have. */
export const Exact = Decimal.clone({ ...digits, precision: 2 * limits.digits + 40 });

/** Decimals rounded to 34 significant digits, as IEEE 754 decimal128 has: what a division gives. */
export const Rounded = Decimal.clone({ ...digits, precision: 34 });

/** A whole number within ±2^53 is a JavaScript number; every other number is an exact decimal. */
export type NumberValue = number | Decimal;

/** An object of a record, whose fields are read by name. */
interface ObjectValue {
  readonly [field: string]: unknown;
}

/** What a formula computes with. `null` is blank. */
export type Value =
  | null
  | string
  | boolean
  | NumberValue
  | Temporal.PlainDate
  | Temporal.Instant
  | FormulaError
  | readonly Value[]
  | ObjectValue;

export function isNumberValue(value: unknown): value is NumberValue {
  return typeof value === 'number' || value instanceof Decimal;
}

export function isDate(value: unknown): value is Temporal.PlainDate {
  return value instanceof Temporal.PlainDate;
}

export function isInstant(value: unknown): value is Temporal.Instant {
  return value instanceof Temporal.Instant;
}

export function isList(value: Value): value is readonly Value[] {
  return Array.isArray(value);
}

/** Returns whether a value is an object of a record: neither a list nor one of the values that happen to be objects in JavaScript. */
export function isObjectValue(value: Value): boolean {
  return (
    typeof value === 'object' &&
    value !== null &&
    !isList(value) &&
    !isNumberValue(value) &&
    !isDate(value) &&
    !isInstant(value)
  );
}

/** The package keeps seven digits in a word. */
const mostWords = Math.ceil(limits.digits / 7) + 1;

/**
 * Returns a decimal in the one form that each number has: a small whole number is a plain one. An error for a number with more
 * digits than a formula may make, or for none.
 */
export function settleNumber(value: Decimal): NumberValue | FormulaError {
  if (!value.isFinite()) return new FormulaError('value', 'The result is not a finite number.');
  if (value.e > limits.digits || value.e < -limits.digits || value.d.length > mostWords) {
    const most = limits.digits.toLocaleString('en');
    return new FormulaError('limit', `A number may have ${most} digits; this one would have more.`);
  }
  return value.isInteger() && value.abs().lte(Number.MAX_SAFE_INTEGER) ? value.toNumber() : value;
}

/** Returns a JavaScript number, taken by its shortest decimal text: 0.1 is one tenth. */
export function numberValue(value: number): NumberValue | FormulaError {
  if (Number.isSafeInteger(value)) return value;
  const known = fractions.get(value);
  if (known) return known;
  const made = settleNumber(new Exact(value));
  if (made instanceof FormulaError) return made;
  if (fractions.size === mostFractions) fractions.clear();
  fractions.set(value, made);
  return made;
}

/** Fractions that were met lately. Records hold the same ones again and again, and making one takes longer than comparing it. */
const fractions = new Map<number, NumberValue>();
const mostFractions = 1000;

/** Returns text as people read it in a formula result: plain digits, ISO dates, TRUE and FALSE; blank gives empty text. */
export function toText(value: Value): string {
  if (value === null) return '';
  if (typeof value === 'string') return value;
  if (typeof value === 'number') return String(value);
  if (typeof value === 'boolean') return value ? 'TRUE' : 'FALSE';
  if (value instanceof Decimal) return value.toFixed();
  if (isDate(value) || isInstant(value)) return value.toString();
  if (value instanceof FormulaError) return `#${value.code}`;
  if (isList(value)) return value.map(toText).join(', ');
  return printJson(value);
}

/** Names the type of a value in the words of the screens. */
export function typeName(value: Value): string {
  if (value === null) return 'blank';
  if (typeof value === 'string') return 'text';
  if (typeof value === 'boolean') return 'a yes/no value';
  if (isNumberValue(value)) return 'a number';
  if (isDate(value)) return 'a date';
  if (isInstant(value)) return 'a date-time';
  if (value instanceof FormulaError) return 'an error';
  return isList(value) ? 'a list' : 'an object';
}

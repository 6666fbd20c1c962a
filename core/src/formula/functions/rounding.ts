import Decimal from 'decimal.js';
import { FormulaError } from '../error';
import { compareNumbers, isZero, wholeTimes } from '../numeric';
import { decimal, integer, type Type } from '../type';
import { Exact, settleNumber, type NumberValue } from '../value';
import { define, integerParam, numberParam, optional } from './define';

/** Rounds at a power of ten, left or right of the point. */
function roundTo(value: NumberValue, places: number, mode: Decimal.Rounding): NumberValue | FormulaError {
  if (Math.abs(places) > 30) return new FormulaError('limit', '“places” may be 30 at most.');
  if (typeof value === 'number' && places >= 0) return value;
  const scaled = Exact.mul(value, Exact.pow(10, places)).toDecimalPlaces(0, mode);
  return settleNumber(scaled.mul(Exact.pow(10, -places)));
}

/** Returns the next multiple of a step above or below a number. */
function toMultiple(
  value: NumberValue,
  step: NumberValue,
  mode: Decimal.Rounding,
): NumberValue | FormulaError {
  if (isZero(step)) return 0;
  if (compareNumbers(value, 0) > 0 && compareNumbers(step, 0) < 0) {
    return new FormulaError('value', 'A number above zero is not rounded to multiples of one below zero.');
  }
  const whole = wholeTimes(value, step);
  if (whole instanceof FormulaError) return whole;
  const { times, left } = whole;
  if (left.isZero()) return settleNumber(times.mul(step));
  // Cut towards zero, it is one too many or too few on one side of it.
  const isBelow = compareNumbers(value, 0) < 0 !== compareNumbers(step, 0) < 0;
  const onward = mode === Decimal.ROUND_FLOOR ? (isBelow ? -1 : 0) : isBelow ? 0 : 1;
  return settleNumber(times.add(onward).mul(step));
}

/** Without places, or without a step, what is rounded is whole. */
function wholeWithoutPlaces(args: readonly Type[]): Type {
  return args.length < 2 ? integer : decimal;
}

export const roundingFunctions = [
  define({
    name: 'ROUND',
    family: 'number',
    meaning: 'The number rounded to so many places; halves go away from zero.',
    params: [numberParam('number'), optional(integerParam('places'))],
    result: wholeWithoutPlaces,
    examples: [
      { formula: 'ROUND(2.5)', gives: '3' },
      { formula: 'ROUND(-1.005, 2)', gives: '-1.01' },
    ],
    range: ([of]) => of ?? {},
    source: 'ODF 1.3 part 4, 6.17.5 ROUND',
    call: ([value, places = 0]) => roundTo(value, places, Decimal.ROUND_HALF_UP),
  }),
  define({
    name: 'ROUNDUP',
    family: 'number',
    meaning: 'The number rounded away from zero to so many places.',
    params: [numberParam('number'), optional(integerParam('places'))],
    result: wholeWithoutPlaces,
    examples: [
      { formula: 'ROUNDUP(2.01, 1)', gives: '2.1' },
      { formula: 'ROUNDUP(-2.1)', gives: '-3' },
    ],
    source: 'ODF 1.3 part 4, 6.17.7 ROUNDUP',
    call: ([value, places = 0]) => roundTo(value, places, Decimal.ROUND_UP),
  }),
  define({
    name: 'ROUNDDOWN',
    family: 'number',
    meaning: 'The number rounded towards zero to so many places.',
    params: [numberParam('number'), optional(integerParam('places'))],
    result: wholeWithoutPlaces,
    examples: [
      { formula: 'ROUNDDOWN(2.99, 1)', gives: '2.9' },
      { formula: 'ROUNDDOWN(1234, -2)', gives: '1200' },
    ],
    source: 'ODF 1.3 part 4, 6.17.6 ROUNDDOWN',
    call: ([value, places = 0]) => roundTo(value, places, Decimal.ROUND_DOWN),
  }),
  define({
    name: 'ROUNDEVEN',
    family: 'number',
    meaning: 'The number rounded to so many places; halves go to the even neighbour.',
    params: [numberParam('number'), optional(integerParam('places'))],
    result: wholeWithoutPlaces,
    examples: [
      { formula: 'ROUNDEVEN(2.5)', gives: '2' },
      { formula: 'ROUNDEVEN(0.135, 2)', gives: '0.14' },
    ],
    source: 'own; the mode is roundTiesToEven of IEEE 754',
    call: ([value, places = 0]) => roundTo(value, places, Decimal.ROUND_HALF_EVEN),
  }),
  define({
    name: 'TRUNC',
    family: 'number',
    meaning: 'The number cut after so many places.',
    params: [numberParam('number'), optional(integerParam('places'))],
    result: wholeWithoutPlaces,
    examples: [
      { formula: 'TRUNC(-2.9)', gives: '-2' },
      { formula: 'TRUNC(2.345, 2)', gives: '2.34' },
    ],
    source: 'ODF 1.3 part 4, 6.17.8 TRUNC',
    call: ([value, places = 0]) => roundTo(value, places, Decimal.ROUND_DOWN),
  }),
  define({
    name: 'INT',
    family: 'number',
    meaning: 'The number rounded down to a whole one.',
    params: [numberParam('number')],
    result: integer,
    examples: [
      { formula: 'INT(2.9)', gives: '2' },
      { formula: 'INT(-2.1)', gives: '-3' },
    ],
    range: ([of]) => of ?? {},
    source: 'ODF 1.3 part 4, 6.17.2 INT',
    call: ([value]) => (typeof value === 'number' ? value : settleNumber(value.floor())),
  }),
  define({
    name: 'CEILING',
    family: 'number',
    meaning: 'The number rounded up to a multiple of a step; of 1, when none is given.',
    params: [numberParam('number'), optional(numberParam('step'))],
    result: wholeWithoutPlaces,
    examples: [
      { formula: 'CEILING(2.1)', gives: '3' },
      { formula: 'CEILING(7.3, 0.25)', gives: '7.5' },
    ],
    source: 'ODF 1.3 part 4, 6.17.1 CEILING',
    call: ([value, step = 1]) => toMultiple(value, step, Decimal.ROUND_CEIL),
  }),
  define({
    name: 'FLOOR',
    family: 'number',
    meaning: 'The number rounded down to a multiple of a step; of 1, when none is given.',
    params: [numberParam('number'), optional(numberParam('step'))],
    result: wholeWithoutPlaces,
    examples: [
      { formula: 'FLOOR(2.9)', gives: '2' },
      { formula: 'FLOOR(7.3, 0.25)', gives: '7.25' },
    ],
    source: 'ODF 1.3 part 4, 6.17.3 FLOOR',
    call: ([value, step = 1]) => toMultiple(value, step, Decimal.ROUND_FLOOR),
  }),
];

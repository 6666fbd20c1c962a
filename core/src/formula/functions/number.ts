import Decimal from 'decimal.js';
import { compareNumbers, divide, isZero, multiply, subtract } from '../numeric';
import { FormulaError } from '../error';
import { decimal, integer, type Type } from '../type';
import { Exact, settleNumber, type NumberValue } from '../value';
import { define, integerParam, numberParam, optional } from './define';

/** Whole when every argument is. */
function likeArguments(args: readonly Type[]): Type {
  return args.every((type) => type.kind === 'integer') ? integer : decimal;
}

/** 10 to the power of places, for rounding left and right of the point. */
function roundTo(value: NumberValue, places: number, mode: Decimal.Rounding): NumberValue | FormulaError {
  if (Math.abs(places) > 30) return new FormulaError('limit', '“places” may be 30 at most.');
  if (typeof value === 'number' && places >= 0) return value;
  const scale = Exact.pow(10, places);
  return settleNumber(Exact.div(Exact.mul(value, scale).toDecimalPlaces(0, mode), scale));
}

export const numberFunctions = [
  define({
    name: 'ABS',
    family: 'number',
    meaning: 'The number without its sign.',
    params: [numberParam('number')],
    result: likeArguments,
    examples: [
      { formula: 'ABS(-4)', gives: '4' },
      { formula: 'ABS(2.5)', gives: '2.5' },
    ],
    source: 'ODF 1.3 part 4, 6.16.2 ABS',
    call: ([value]) => (compareNumbers(value, 0) < 0 ? subtract(0, value) : value),
  }),
  define({
    name: 'ROUND',
    family: 'number',
    meaning: 'The number rounded to so many places; halves go away from zero.',
    params: [numberParam('number'), optional(integerParam('places'))],
    result: decimal,
    examples: [
      { formula: 'ROUND(2.5)', gives: '3' },
      { formula: 'ROUND(-1.005, 2)', gives: '-1.01' },
    ],
    source: 'ODF 1.3 part 4, 6.17.5 ROUND',
    call: ([value, places = 0]) => roundTo(value, places, Decimal.ROUND_HALF_UP),
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
    source: 'ODF 1.3 part 4, 6.17.2 INT',
    call: ([value]) => (typeof value === 'number' ? value : settleNumber(value.floor())),
  }),
  define({
    name: 'MOD',
    family: 'number',
    meaning: 'What is left when a number is divided by another; it has the sign of the divisor.',
    params: [numberParam('number'), numberParam('divisor')],
    result: likeArguments,
    examples: [
      { formula: 'MOD(10, 3)', gives: '1' },
      { formula: 'MOD(-1, 3)', gives: '2' },
    ],
    source: 'ODF 1.3 part 4, 6.16.41 MOD',
    call: ([value, divisor]) => {
      if (isZero(divisor)) return new FormulaError('divide', 'This divides by zero.');
      const times = divide(value, divisor);
      if (times instanceof FormulaError) return times;
      return subtract(value, multiply(divisor, settleNumber(new Exact(times).floor())));
    },
  }),
  define({
    name: 'MIN',
    family: 'number',
    meaning: 'The smallest of the numbers.',
    params: [numberParam('number')],
    rest: numberParam('number'),
    result: likeArguments,
    examples: [
      { formula: 'MIN(3, 1, 2)', gives: '1' },
      { formula: 'MIN(0.1, 0.02)', gives: '0.02' },
    ],
    source: 'ODF 1.3 part 4, 6.18.48 MIN',
    call: (values) => values.reduce((least, value) => (compareNumbers(value, least) < 0 ? value : least)),
  }),
  define({
    name: 'MAX',
    family: 'number',
    meaning: 'The largest of the numbers.',
    params: [numberParam('number')],
    rest: numberParam('number'),
    result: likeArguments,
    examples: [
      { formula: 'MAX(3, 1, 2)', gives: '3' },
      { formula: 'MAX(-0.5, -1)', gives: '-0.5' },
    ],
    source: 'ODF 1.3 part 4, 6.18.45 MAX',
    call: (values) => values.reduce((most, value) => (compareNumbers(value, most) > 0 ? value : most)),
  }),
];

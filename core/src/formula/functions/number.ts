import { add, compareNumbers, divide, negate, wholeTimes } from '../numeric';
import { FormulaError } from '../error';
import { decimal, integer, type Type } from '../type';
import { settleNumber, type NumberValue } from '../value';
import { define, numberParam, numbersParam } from './define';
import type { NumberRange } from './traits';

/** Whole when every argument is. */
function likeArguments(args: readonly Type[]): Type {
  return args.every((type) => type.kind === 'integer') ? integer : decimal;
}

/** Returns the same, where lists of numbers count by their elements. */
function numberLikeArguments(args: readonly Type[]): Type {
  return likeArguments(args.map((type) => (type.kind === 'list' ? type.of : type)));
}

/** Returns the number that lies furthest down (-1) or up (1). */
function outermost(values: readonly NumberValue[], direction: -1 | 1): NumberValue | null {
  const [first, ...others] = values;
  if (first === undefined) return null;
  return others.reduce((best, value) => (compareNumbers(value, best) * direction > 0 ? value : best), first);
}

function sumOf(values: readonly NumberValue[]): NumberValue | FormulaError {
  let sum: NumberValue = 0;
  for (const value of values) {
    const next = add(sum, value);
    if (next instanceof FormulaError) return next;
    sum = next;
  }
  return sum;
}

const bounds = (ranges: readonly NumberRange[]) => ({
  mins: ranges.map(({ min }) => min).filter((min) => min !== undefined),
  maxs: ranges.map(({ max }) => max).filter((max) => max !== undefined),
});

/** Returns the range of the smallest: below every bound that is known, and above the least when all are. */
function leastOf(ranges: readonly NumberRange[]): NumberRange {
  const { mins, maxs } = bounds(ranges);
  return {
    ...(mins.length === ranges.length && { min: Math.min(...mins) }),
    ...(maxs.length > 0 && { max: Math.min(...maxs) }),
  };
}

/** Returns the range of the greatest: above every bound that is known, and below the greatest when all are. */
function greatestOf(ranges: readonly NumberRange[]): NumberRange {
  const { mins, maxs } = bounds(ranges);
  return {
    ...(mins.length > 0 && { min: Math.max(...mins) }),
    ...(maxs.length === ranges.length && { max: Math.max(...maxs) }),
  };
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
    range: () => ({ min: 0 }),
    source: 'ODF 1.3 part 4, 6.16.2 ABS',
    call: ([value]) => (compareNumbers(value, 0) < 0 ? negate(value) : value),
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
      const whole = wholeTimes(value, divisor);
      if (whole instanceof FormulaError) return whole;
      const { left } = whole;
      const otherSign = !left.isZero() && left.isNegative() !== compareNumbers(divisor, 0) < 0;
      return settleNumber(otherSign ? left.add(divisor) : left);
    },
  }),
  define({
    name: 'QUOTIENT',
    family: 'number',
    meaning: 'How many whole times a number holds another, cut towards zero.',
    params: [numberParam('number'), numberParam('divisor')],
    result: integer,
    examples: [
      { formula: 'QUOTIENT(17, 5)', gives: '3' },
      { formula: 'QUOTIENT(-17, 5)', gives: '-3' },
    ],
    source: 'ODF 1.3 part 4, 6.16.51 QUOTIENT',
    call: ([value, divisor]) => {
      const whole = wholeTimes(value, divisor);
      return whole instanceof FormulaError ? whole : settleNumber(whole.times);
    },
  }),
  define({
    name: 'SIGN',
    family: 'number',
    meaning: '1 for a number above zero, -1 for one below, 0 for zero.',
    params: [numberParam('number')],
    result: integer,
    examples: [
      { formula: 'SIGN(-2.5)', gives: '-1' },
      { formula: 'SIGN(0)', gives: '0' },
    ],
    source: 'ODF 1.3 part 4, 6.16.57 SIGN',
    call: ([value]) => Math.sign(compareNumbers(value, 0)),
  }),
  define({
    name: 'MIN',
    family: 'number',
    meaning: 'The smallest of the numbers, or of those in lists; blank when there is none.',
    params: [numbersParam('number')],
    rest: numbersParam('number'),
    result: numberLikeArguments,
    seesBlanks: true,
    examples: [
      { formula: 'MIN(3, 1, 2)', gives: '1' },
      { formula: 'MIN({0.1, 0.02})', gives: '0.02' },
    ],
    flow: null,
    range: leastOf,
    source: 'ODF 1.3 part 4, 6.18.48 MIN; blank for no number is our own',
    call: (values) => outermost(values.flat(), -1),
  }),
  define({
    name: 'MAX',
    family: 'number',
    meaning: 'The largest of the numbers, or of those in lists; blank when there is none.',
    params: [numbersParam('number')],
    rest: numbersParam('number'),
    result: numberLikeArguments,
    seesBlanks: true,
    examples: [
      { formula: 'MAX(3, 1, 2)', gives: '3' },
      { formula: 'MAX({-0.5, -1})', gives: '-0.5' },
    ],
    flow: null,
    range: greatestOf,
    source: 'ODF 1.3 part 4, 6.18.45 MAX; blank for no number is our own',
    call: (values) => outermost(values.flat(), 1),
  }),
  define({
    name: 'SUM',
    family: 'number',
    meaning: 'The sum of the numbers, and of those in lists; blanks add nothing.',
    params: [numbersParam('number')],
    rest: numbersParam('number'),
    result: numberLikeArguments,
    seesBlanks: true,
    examples: [
      { formula: 'SUM(0.1, 0.2)', gives: '0.3' },
      { formula: 'SUM({1, 2, 3}, 4)', gives: '10' },
    ],
    flow: null,
    source: 'ODF 1.3 part 4, 6.16.61 SUM',
    call: (values) => sumOf(values.flat()),
  }),
  define({
    name: 'AVERAGE',
    family: 'number',
    meaning: 'The mean of the numbers, and of those in lists; blank when there is none.',
    params: [numbersParam('number')],
    rest: numbersParam('number'),
    result: decimal,
    seesBlanks: true,
    examples: [
      { formula: 'AVERAGE(1, 2)', gives: '1.5' },
      { formula: 'AVERAGE({2, 4, 6})', gives: '4' },
    ],
    flow: null,
    source: 'ODF 1.3 part 4, 6.18.3 AVERAGE; blank for no number is our own',
    call: (values) => {
      const all = values.flat();
      const sum = sumOf(all);
      if (sum instanceof FormulaError) return sum;
      return all.length === 0 ? null : divide(sum, all.length);
    },
  }),
];

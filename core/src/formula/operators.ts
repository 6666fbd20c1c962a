import type { Temporal } from 'temporal-polyfill';
import { sameValue } from '../model/equal';
import { joinNfc } from '../model/nfc';
import type { Field } from '../model/system';
import { compareValues, equalValues } from './compare';
import { FormulaError } from './error';
import { boundedToText, tooLong } from './functions/bounded';
import { toJson } from './toJson';
import { limits } from './limits';
import { add, divide, multiply, power, subtract } from './numeric';
import type { BinaryOperator } from './tree';
import {
  boolean,
  comparable,
  date,
  decimal,
  describeType,
  equatable,
  fieldOfType,
  integer,
  isOpen,
  text,
  type Type,
} from './type';
import { isDate, isList, isNumberValue, typeName, type Value } from './value';

type Operate = (left: Value, right: Value) => Value;

/** Returns the type that an operator gives for operands of these types, or why it does not take them. */
export function operatorType(operator: BinaryOperator, left: Type, right: Type): Type | string {
  switch (operator) {
    case '&':
      return text;
    case '=':
    case '<>':
      return equatable(left, right) ? boolean : notComparable(left, right);
    case '<':
    case '<=':
    case '>':
    case '>=':
      return comparable(left, right) ? boolean : notComparable(left, right);
    default:
      return arithmeticType(operator, left, right);
  }
}

const notComparable = (left: Type, right: Type): string =>
  `Values of type ${describeType(left)} and ${describeType(right)} cannot be compared.`;

function arithmeticType(operator: '+' | '-' | '*' | '/' | '^', left: Type, right: Type): Type | string {
  if (left.kind === 'date' && (operator === '+' || operator === '-')) {
    if (right.kind === 'integer' || isOpen(right)) return right.kind === 'integer' ? date : { kind: 'any' };
    if (right.kind === 'date' && operator === '-') return integer;
  }
  const misfit = [left, right].find(
    (type) => type.kind !== 'integer' && type.kind !== 'decimal' && !isOpen(type),
  );
  if (misfit) return `“${operator}” takes numbers, and this is ${describeType(misfit)}.`;
  const whole = left.kind === 'integer' && right.kind === 'integer' && operator !== '/' && operator !== '^';
  return whole ? integer : decimal;
}

const ordering: Readonly<Record<'<' | '<=' | '>' | '>=', (order: number) => boolean>> = {
  '<': (order) => order < 0,
  '<=': (order) => order <= 0,
  '>': (order) => order > 0,
  '>=': (order) => order >= 0,
};

/**
 * Returns what an operator does to operands of these types. Errors pass; blank gives blank, but for `&`, `=` and `<>`. Objects and lists of
 * them are the same by the types of their fields, as the change detector sees them.
 */
export function operation(operator: BinaryOperator, left: Type, right: Type): Operate {
  if (operator === '=' || operator === '<>') {
    const field = fieldOfType(left) ?? fieldOfType(right);
    if (field) return structural(field, operator === '=');
  }
  return plainOperation(operator);
}

/** Returns the comparison of objects or lists of objects. */
function structural(field: Field, wanted: boolean): Operate {
  return (left, right) => {
    if (left instanceof FormulaError) return left;
    if (right instanceof FormulaError) return right;
    return sameValue(field, toJson(left), toJson(right)) === wanted;
  };
}

function plainOperation(operator: BinaryOperator): Operate {
  switch (operator) {
    case '&':
      return (left, right) => {
        if (left instanceof FormulaError) return left;
        if (right instanceof FormulaError) return right;
        if (typeof left === 'string' && typeof right === 'string')
          return left.length + right.length > limits.text ? tooLong() : joinNfc(left, right);
        const [a, b] = [boundedToText(left), boundedToText(right)];
        if (a instanceof FormulaError) return a;
        if (b instanceof FormulaError) return b;
        return a.length + b.length > limits.text ? tooLong() : joinNfc(a, b);
      };
    case '=':
      return equalValues;
    case '<>':
      return (left, right) => {
        const equal = equalValues(left, right);
        return equal instanceof FormulaError ? equal : !equal;
      };
    case '<':
    case '<=':
    case '>':
    case '>=': {
      const holds = ordering[operator];
      return strict((left, right) => {
        const order = compareValues(left, right);
        return order instanceof FormulaError ? order : holds(order);
      });
    }
    case '+':
      return strict((left, right) => (isDate(left) ? shiftDate(left, right, 1) : numbers(left, right, add)));
    case '-':
      return strict((left, right) => {
        if (!isDate(left)) return numbers(left, right, subtract);
        return isDate(right) ? left.since(right, { largestUnit: 'day' }).days : shiftDate(left, right, -1);
      });
    case '*':
      return strict((left, right) => numbers(left, right, multiply));
    case '/':
      return strict((left, right) => numbers(left, right, divide));
    case '^':
      return strict((left, right) => numbers(left, right, power));
  }
}

function strict(operate: Operate): Operate {
  return (left, right) => {
    if (left instanceof FormulaError) return left;
    if (right instanceof FormulaError) return right;
    return left === null || right === null ? null : operate(left, right);
  };
}

function numbers(
  left: Value,
  right: Value,
  compute: (a: Parameters<typeof add>[0], b: Parameters<typeof add>[1]) => Value,
): Value {
  if (isNumberValue(left) && isNumberValue(right)) return compute(left, right);
  const misfit = isNumberValue(left) ? right : left;
  return new FormulaError('type', `A number is wanted here, and this is ${typeName(misfit)}.`);
}

function shiftDate(from: Temporal.PlainDate, days: Value, direction: 1 | -1): Value {
  if (typeof days !== 'number' || isList(days)) {
    return new FormulaError('type', `A whole number of days is wanted here, and this is ${typeName(days)}.`);
  }
  try {
    return from.add({ days: direction * days });
  } catch {
    // Temporal refuses dates beyond the year 275760.
    return new FormulaError('value', 'The date is out of range.');
  }
}

import type { Temporal } from 'temporal-polyfill';
import { FormulaError } from '../error';
import type { Env } from '../scope';
import type { Typed, TypingContext } from '../typed';
import type { Node } from '../tree';
import type { Type } from '../type';
import type { Traits } from './traits';
import {
  isDate,
  isInstant,
  isList,
  isNumberValue,
  isObjectValue,
  toText,
  typeName,
  type NumberValue,
  type Value,
} from '../value';

export const families = [
  'text',
  'number',
  'date and time',
  'logic',
  'lists',
  'tables',
  'records',
  'identifiers',
  'formats',
] as const;
type Family = (typeof families)[number];

/** What a call of a family costs, where that is more than a unit: dates are computed in a calendar. */
export const familyEffort: Partial<Record<Family, number>> = { 'date and time': 50 };

/** A formula and what it gives, shown in the documentation and run as a test. */
export interface Example {
  readonly formula: string;
  /** The result as a formula of literals: `"SK"`, `12.5`, `DATE(2026, 3, 1)`; `blank`, or `error: code`. */
  readonly gives: string;
}

/** What an argument must be, and how it is read from a value. */
export interface Param<T> {
  readonly name: string;
  readonly type: Type;
  readonly optional: boolean;
  /** The argument ready for use, or why it cannot be. Never called with an error; with blank only where blanks are seen. */
  readonly read: (value: Value) => T | FormulaError;
}

interface Documented extends Traits {
  readonly name: string;
  readonly family: Family;
  /** One sentence. */
  readonly meaning: string;
  readonly examples: readonly [Example, Example, ...Example[]];
  /** The standard and section that the meaning follows, or `own`. */
  readonly source: string;
  /** What a call costs, in units of the budget; without it, what its family costs. */
  readonly effort?: number;
  /** What each 64 characters of the texts that it is given cost; 1 without it. */
  readonly textEffort?: number;
  /** At which argument the value of a chain flows in; null where there is no such. Without it, the first. */
  readonly flow?: number | null;
  /** How a step of a chain is said in few words, from its other arguments; without it, the name and the arguments. */
  readonly asStep?: (args: readonly string[]) => string;
}

/** A function of values. Errors pass through it; so do blanks, unless it says that it sees them. */
export interface OrdinaryFunction extends Documented {
  readonly kind: 'ordinary';
  readonly params: readonly Param<unknown>[];
  /** Takes all further arguments. */
  readonly rest?: Param<unknown>;
  readonly result: Type | ((args: readonly Type[]) => Type);
  readonly seesBlanks: boolean;
  readonly call: (args: readonly unknown[], env: Env) => Value;
}

/** A function that decides itself which of its parts are computed, or that reads a part as a name. */
export interface FormFunction extends Documented {
  readonly kind: 'form';
  /** How its parts are named in documentation and signature help. */
  readonly parts: string;
  readonly type: (call: Extract<Node, { kind: 'call' }>, context: TypingContext) => Typed | FormulaError;
}

export type FormulaFunction = OrdinaryFunction | FormFunction;

type Read<P> = { -readonly [K in keyof P]: P[K] extends Param<infer T> ? T : never };

interface Definition<P extends readonly Param<unknown>[], R> extends Documented {
  readonly params: P;
  readonly rest?: Param<R>;
  readonly result: OrdinaryFunction['result'];
  readonly seesBlanks?: boolean;
  readonly call: (args: [...Read<P>, ...R[]], env: Env) => Value;
}

/** Declares a function of values; the parameters give the types of the arguments that `call` receives. */
export function define<const P extends readonly Param<unknown>[], R = never>(
  definition: Definition<P, R>,
): OrdinaryFunction {
  const { call, ...documented } = definition;
  return {
    ...documented,
    kind: 'ordinary',
    seesBlanks: definition.seesBlanks ?? false,
    // The compiler reads every argument through its parameter before the call, so the types hold.
    call: (args, env) => call(args as [...Read<P>, ...R[]], env),
  };
}

/** Declares a function that types and computes its own parts. */
export function defineForm(form: Omit<FormFunction, 'kind'>): FormFunction {
  return { ...form, kind: 'form' };
}

function param<T>(name: string, type: Type, read: Param<T>['read']): Param<T> {
  return { name, type, read, optional: false };
}

/** Returns the same parameter, which may be left out; the function then receives undefined. */
export function optional<T>(of: Param<T>): Param<T | undefined> {
  return { ...of, optional: true };
}

function wants(name: string, wanted: string, value: Value): FormulaError {
  return new FormulaError('type', `“${name}” takes ${wanted}, and this is ${typeName(value)}.`);
}

/** Returns text; numbers, dates and yes/no values are turned into it, as OpenFormula's Convert to Text does. */
export function textParam(name: string): Param<string> {
  return param(name, { kind: 'text' }, (value) => {
    if (typeof value === 'string') return value;
    return isList(value) || isObjectValue(value) ? wants(name, 'text', value) : toText(value);
  });
}

export function numberParam(name: string): Param<NumberValue> {
  return param(name, { kind: 'decimal' }, (value) =>
    isNumberValue(value) ? value : wants(name, 'a number', value),
  );
}

/** Returns a whole number within ±2^53. */
export function integerParam(name: string): Param<number> {
  return param(name, { kind: 'integer' }, (value) =>
    typeof value === 'number' ? value : wants(name, 'a whole number', value),
  );
}

export function booleanParam(name: string): Param<boolean> {
  return param(name, { kind: 'boolean' }, (value) =>
    typeof value === 'boolean' ? value : wants(name, 'yes or no', value),
  );
}

export function dateParam(name: string): Param<Temporal.PlainDate> {
  return param(name, { kind: 'date' }, (value) => (isDate(value) ? value : wants(name, 'a date', value)));
}

export function instantParam(name: string): Param<Temporal.Instant> {
  return param(name, { kind: 'datetime' }, (value) =>
    isInstant(value) ? value : wants(name, 'a date-time', value),
  );
}

export function anyParam(name: string): Param<Value> {
  return param(name, { kind: 'any' }, (value) => value);
}

/** Returns a list; a value that is none counts as a list of itself alone. */
export function listParam(name: string): Param<readonly Value[]> {
  return param(name, { kind: 'list', of: { kind: 'any' } }, (value) => (isList(value) ? value : [value]));
}

/** Returns a number or a list of numbers, as the functions that sum and compare take them; blanks in a list are left out. */
export function numbersParam(name: string): Param<readonly NumberValue[]> {
  return param(name, { kind: 'any' }, (value) => {
    const numbers: NumberValue[] = [];
    for (const item of isList(value) ? value : [value]) {
      if (item === null || item === '') continue;
      if (!isNumberValue(item)) return wants(name, 'numbers', item);
      numbers.push(item);
    }
    return numbers;
  });
}

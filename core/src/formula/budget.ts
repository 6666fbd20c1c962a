import Decimal from 'decimal.js';
import { FormulaError } from './error';
import { limits } from './limits';
import type { Value } from './value';

/**
 * What one computation may still cost, however its parts are nested: elements gone through, text made, and work done on what functions
 * are given. A formula has one, which begins anew with each computation; whoever goes beyond it gets an error and no value.
 */
export class Budget {
  private steps = 0;
  private left = 0;
  private work = 0;

  /** Begins a computation. */
  begin(): void {
    this.steps = limits.steps;
    this.left = limits.made;
    this.work = limits.work;
  }

  /** Counts one element that is gone through. */
  step(): FormulaError | undefined {
    return --this.steps < 0 ? beyond(`go through ${inDigits(limits.steps)} elements`) : undefined;
  }

  /** Counts work; a unit is about what a millionth of a second does. */
  spend(cost: number): FormulaError | undefined {
    this.work -= cost;
    return this.work < 0 ? beyond('work on so much text and so many elements at once') : undefined;
  }

  /** Counts what a product or a power of many digits took; gives it back, or an error. */
  number(value: Value): Value {
    if (!(value instanceof Decimal)) return value;
    const words = value.d.length;
    return this.spend((words * words) >> 3) ?? value;
  }

  /** Counts so many characters that were made. */
  made(length: number): FormulaError | undefined {
    this.left -= length;
    return this.left < 0 ? beyond(`make ${inDigits(limits.made)} characters of text in all`) : undefined;
  }

  /** Counts text that was made; gives it back, or an error. */
  text(value: string): string | FormulaError {
    return this.made(value.length) ?? value;
  }
}

/** Returns what a value costs a function that is given it: a unit for each element of a list, and so many for each 64 characters. */
export function costOf(value: Value, textEffort: number): number {
  if (typeof value === 'string') return (value.length * textEffort) >> 6;
  return Array.isArray(value) ? value.length : 0;
}

function beyond(what: string): FormulaError {
  return new FormulaError('limit', `A formula may not ${what}.`);
}

const inDigits = (number: number): string => number.toLocaleString('en');

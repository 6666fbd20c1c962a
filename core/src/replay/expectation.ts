import { Decimal } from 'decimal.js';
import { FormulaError } from '../formula/error';
import { patternOf } from '../formula/pattern';
import { isBlankJson, sameValue } from '../model/equal';
import type { Expectation } from '../model/expected';
import type { Json } from '../model/json';
import { printJson } from '../model/jsonText';
import type { Field } from '../model/system';

/** Returns whether a value is as expected, compared by the type of its field. */
export function isAsExpected(expectation: Expectation, value: Json, field?: Field): boolean {
  switch (expectation.is) {
    case 'equal':
      return sameValue(field, expectation.value, value);
    case 'near':
      return isNear(expectation, value);
    case 'matching': {
      const pattern = patternOf(expectation.pattern);
      return !(pattern instanceof FormulaError) && typeof value === 'string' && pattern.matcher(value).find();
    }
    case 'blank':
      return isBlankJson(value);
    case 'any':
      return true;
  }
}

function isNear({ value, within }: Extract<Expectation, { is: 'near' }>, got: Json): boolean {
  if (typeof got !== 'number' && (typeof got !== 'string' || !/^-?\d+(\.\d+)?$/.test(got))) return false;
  return new Decimal(got).minus(value).abs().lte(new Decimal(within).abs());
}

/** Returns an expectation in the words of the bench. */
export function expectationText(expectation: Expectation): string {
  switch (expectation.is) {
    case 'equal':
      return typeof expectation.value === 'string' ? expectation.value : printJson(expectation.value);
    case 'near':
      return `${expectation.value}, give or take ${expectation.within}`;
    case 'matching':
      return `matches ${expectation.pattern}`;
    case 'blank':
      return 'blank';
    case 'any':
      return 'any value';
  }
}

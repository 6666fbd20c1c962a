import type { FormulaFunction } from './define';
import { codeFunctions } from './codes';
import { conditionalFunctions } from './conditional';
import { dateTimeFunctions } from './dateTime';
import { formatFunctions } from './formats';
import { identifierFunctions } from './identifiers';
import { listFunctions } from './lists';
import { logicFunctions } from './logic';
import { momentFunctions } from './moments';
import { numberFunctions } from './number';
import { objectFunctions } from './objects';
import { placeFunctions } from './places';
import { recordFunctions } from './records';
import { regexFunctions } from './regex';
import { roundingFunctions } from './rounding';
import { tableFunctions } from './tables';
import { textFunctions } from './text';
import { textPartFunctions } from './textParts';
import { workdayFunctions } from './workdays';

/** Every function of the formula language, family by family. To add one, write its entry in its family's file. */
export const formulaFunctions: readonly FormulaFunction[] = [
  ...textFunctions,
  ...textPartFunctions,
  ...regexFunctions,
  ...numberFunctions,
  ...roundingFunctions,
  ...dateTimeFunctions,
  ...workdayFunctions,
  ...momentFunctions,
  ...logicFunctions,
  ...conditionalFunctions,
  ...listFunctions,
  ...objectFunctions,
  ...tableFunctions,
  ...recordFunctions,
  ...identifierFunctions,
  ...codeFunctions,
  ...formatFunctions,
  ...placeFunctions,
];

const byName = new Map(formulaFunctions.map((entry) => [entry.name, entry]));

export function functionNamed(name: string): FormulaFunction | undefined {
  return byName.get(name);
}

import type { FormulaFunction } from './define';
import { dateTimeFunctions } from './dateTime';
import { identifierFunctions } from './identifiers';
import { listFunctions } from './lists';
import { logicFunctions } from './logic';
import { numberFunctions } from './number';
import { recordFunctions } from './records';
import { textFunctions } from './text';

/** Every function of the formula language, family by family. To add one, write its entry in its family's file. */
export const formulaFunctions: readonly FormulaFunction[] = [
  ...textFunctions,
  ...numberFunctions,
  ...dateTimeFunctions,
  ...logicFunctions,
  ...listFunctions,
  ...recordFunctions,
  ...identifierFunctions,
];

const byName = new Map(formulaFunctions.map((entry) => [entry.name, entry]));

export function functionNamed(name: string): FormulaFunction | undefined {
  return byName.get(name);
}

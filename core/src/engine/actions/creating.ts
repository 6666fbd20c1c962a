import type Joi from 'joi';
import BaseJoi from 'joi';
import { alias, fieldName, formulaText } from '../../model/names';
import type { Formula } from '../../formula/compile';
import type { AnyCompiled } from '../compiled';
import { createForEach } from './createRecords';
import type { ActionCompiling, ActionFormula, ActionTarget, AnyAction } from './kind';
import { compileLines, lineFormulas, linesSchema, type MappingLine } from './mappingLine';

/** What actions that create records have. */
export interface Creating extends AnyAction {
  /** Later actions of the rule know the record under this name, its id included. */
  readonly alias: string;
  readonly system: string;
  readonly recordType: string;
  readonly lines: readonly MappingLine[];
  /** A list: a record is created for each of its elements, which the lines read as `item`. */
  readonly each?: string;
  /** Nothing is created until the person who requested the rule has seen the filled form. */
  readonly review?: boolean;
}

/** A compiled action with a ledger; one that creates may have a list. */
export interface CompiledCreating<A extends AnyAction> extends AnyCompiled<A> {
  readonly each?: Formula;
}

export const creatingSchema: Readonly<Record<string, Joi.Schema>> = {
  alias: alias.required(),
  system: fieldName.required(),
  recordType: fieldName.required(),
  lines: linesSchema.required(),
  each: formulaText,
  review: BaseJoi.boolean(),
  only: formulaText,
};

function creatingTarget({ alias: name, system, recordType }: Creating): ActionTarget {
  return { is: 'new', alias: name, system, recordType };
}

function creatingFormulas({ each, lines }: Creating): readonly ActionFormula[] {
  return [{ at: 'each', formula: each }, ...lineFormulas(lines)];
}

/** Compiles lines and list, and notes what keeps a record from being created. */
export function compileCreating(action: Creating, { compiling, place, target }: ActionCompiling) {
  const { rule, note, formulaAt } = compiling;
  if (action.review && rule.trigger.kinds.some((kind) => kind !== 'requested')) {
    note(`${place}/review`, 'Only a rule that a person requests can wait for a review.');
  }
  const lines = compileLines(compiling, place, action.lines, target.type);
  const each = action.each ? formulaAt(`${place}/each`, action.each) : undefined;
  return { lines, ...(each && { each }) };
}

/** Returns the fields that lines fill, in brackets. */
export function linesSummary({ lines }: { readonly lines: readonly MappingLine[] }): string {
  return lines.map(({ field }) => field).join(', ');
}

/** What kinds of action that create records have in common. */
export const creatingRules = {
  target: creatingTarget,
  lines: ({ lines }: Creating) => lines,
  formulas: creatingFormulas,
  summary: linesSummary,
  compile: compileCreating,
  run: createForEach,
} as const;

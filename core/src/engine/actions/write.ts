import Joi from 'joi';
import { fieldName, formulaText } from '../../model/names';
import type { AnyCompiled } from '../compiled';
import { linesSummary } from './creating';
import type { ActionKindRules, AnyAction } from './kind';
import { compileLines, lineFormulas, linesSchema, type MappingLine } from './mappingLine';
import { writeRecords } from './writeRecords';

/** Writes the lines to the record that `target` names: `record`, or the alias of a find. */
export interface WriteAction extends AnyAction {
  readonly kind: 'write';
  readonly target: string;
  readonly lines: readonly MappingLine[];
}

export const writeAction: ActionKindRules<WriteAction, AnyCompiled<WriteAction>> = {
  kind: 'write',
  offer: 'Write to a record',
  schema: Joi.object<WriteAction>({
    kind: Joi.valid('write').required(),
    target: fieldName.required(),
    lines: linesSchema.required(),
    only: formulaText,
  }),
  target: ({ target }) => ({ is: 'named', name: target }),
  lines: ({ lines }) => lines,
  formulas: ({ lines }) => lineFormulas(lines),
  isEmpty: ({ lines }) => lines.length === 0,
  begin: () => ({ kind: 'write', target: 'record', lines: [] }),
  summary: linesSummary,
  compile: ({ lines }, { compiling, place, target }) => ({
    lines: compileLines(compiling, place, lines, target.type),
  }),
  run: writeRecords,
};

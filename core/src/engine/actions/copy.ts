import Joi from 'joi';
import { fieldName } from '../../model/names';
import {
  compileCreating,
  creatingRules,
  creatingSchema,
  type CompiledCreating,
  type Creating,
} from './creating';
import type { ActionKindRules } from './kind';

/** Creates a record that holds all that can be copied of another one, and then what the lines say. */
export interface CopyAction extends Creating {
  readonly kind: 'copy';
  /** The record that is copied: `record`, or an alias. */
  readonly of: string;
}

export const copyAction: ActionKindRules<CopyAction, CompiledCreating<CopyAction>> = {
  ...creatingRules,
  kind: 'copy',
  offer: 'Copy a record',
  schema: Joi.object<CopyAction>({
    kind: Joi.valid('copy').required(),
    of: fieldName.required(),
    ...creatingSchema,
  }),
  uses: ({ of }) => [of],
  takesAll: true,
  // It holds what it copies.
  isEmpty: () => false,
  begin: ({ body, freeAlias }) => {
    const { system, recordType } = body.trigger;
    return { kind: 'copy', of: 'record', alias: freeAlias(recordType), system, recordType, lines: [] };
  },
  compile: (action, actionCompiling) => {
    const { compiling, place, named } = actionCompiling;
    const source = named(action.of);
    if (!source) compiling.note(`${place}/of`, `Nothing is found under the name “${action.of}”.`);
    else if (source.system !== action.system || source.type.name !== action.recordType) {
      compiling.note(
        `${place}/of`,
        `“${action.of}” is no ${action.recordType}; a copy is of the same record type.`,
      );
    }
    return compileCreating(action, actionCompiling);
  },
};

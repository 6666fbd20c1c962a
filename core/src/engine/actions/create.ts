import Joi from 'joi';
import {
  compileCreating,
  creatingFormulas,
  creatingSchema,
  creatingTarget,
  linesSummary,
  type CompiledCreating,
  type Creating,
} from './creating';
import { createForEach } from './createRecords';
import type { ActionKindRules } from './kind';

/** Creates a record of a type from the lines. */
export interface CreateAction extends Creating {
  readonly kind: 'create';
  /** Remembers the record that is created as the counterpart of the triggering one. */
  readonly counterpart?: boolean;
}

export const createAction: ActionKindRules<CreateAction, CompiledCreating<CreateAction>> = {
  kind: 'create',
  offer: 'Create a record',
  schema: Joi.object<CreateAction>({
    kind: Joi.valid('create').required(),
    ...creatingSchema,
    counterpart: Joi.boolean(),
  }),
  target: creatingTarget,
  lines: ({ lines }) => lines,
  formulas: creatingFormulas,
  startsBlank: true,
  isEmpty: ({ lines }) => lines.length === 0,
  /** In a system other than the trigger's. */
  begin: ({ body, systems, freeAlias }) => {
    const system = systems.find(({ key }) => key !== body.trigger.system) ?? systems[0];
    const type = system?.recordTypes[0];
    if (!system || !type) return undefined;
    const alias = freeAlias(type.name);
    return { kind: 'create', alias, system: system.key, recordType: type.name, lines: [] };
  },
  summary: linesSummary,
  compile: compileCreating,
  run: createForEach,
};

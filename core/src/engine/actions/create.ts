import Joi from 'joi';
import { creatingRules, creatingSchema, type CompiledCreating, type Creating } from './creating';
import type { ActionKindRules } from './kind';

/** Creates a record of a type from the lines. */
export interface CreateAction extends Creating {
  readonly kind: 'create';
  /** Remembers the record that is created as the counterpart of the triggering one. */
  readonly counterpart?: boolean;
}

export const createAction: ActionKindRules<CreateAction, CompiledCreating<CreateAction>> = {
  ...creatingRules,
  kind: 'create',
  offer: 'Create a record',
  schema: Joi.object<CreateAction>({
    kind: Joi.valid('create').required(),
    ...creatingSchema,
    counterpart: Joi.boolean(),
  }),
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
};

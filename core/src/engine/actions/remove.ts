import Joi from 'joi';
import { fieldName, formulaText } from '../../model/names';
import type { AnyCompiled } from '../compiled';
import { makeChange, noteStep } from '../ruleContext';
import type { ActionKindRules, AnyAction } from './kind';
import { targetsOf } from './targets';

/** Removes the record that `target` names from its system. */
export interface RemoveAction extends AnyAction {
  readonly kind: 'remove';
  readonly target: string;
}

export const removeAction: ActionKindRules<RemoveAction, AnyCompiled<RemoveAction>> = {
  kind: 'remove',
  offer: 'Remove a record',
  schema: Joi.object<RemoveAction>({
    kind: Joi.valid('remove').required(),
    target: fieldName.required(),
    only: formulaText,
  }),
  target: ({ target }) => ({ is: 'named', name: target }),
  formulas: () => [],
  isEmpty: () => false,
  // What a find reached is more likely to go than what started the rule.
  begin: ({ body: { finds } }) => ({ kind: 'remove', target: finds[0]?.alias ?? 'record' }),
  summary: () => 'removed',
  compile: () => ({}),
  async run(action, branches, context) {
    for (const { target } of await targetsOf(action, branches, context)) {
      context.counts.reached++;
      const { ref, record } = target;
      if (await makeChange({ kind: 'remove', ref, record }, target, context))
        noteStep(context, { kind: 'remove', action: action.at, ref });
    }
    return branches;
  },
};

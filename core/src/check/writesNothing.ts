import { kindOf } from '../engine/actions';
import type { Check } from './finding';

/** Rules without a single line. */
export const writesNothing: Check = {
  kind: 'writes nothing',
  meaning: 'No action of the rule does anything yet.',
  find: ({ rule }) =>
    rule.actions.every((action) => kindOf(action).isEmpty(action))
      ? [
          {
            severity: 'error',
            at: 'actions',
            message: 'The rule does nothing: no target field has a formula yet.',
          },
        ]
      : [],
};

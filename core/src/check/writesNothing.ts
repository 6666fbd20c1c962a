import type { Action } from '../model/action';
import type { Check } from './finding';

/** Whether an action has nothing in it yet. A copy holds what it copies. */
function isEmpty(action: Action): boolean {
  switch (action.kind) {
    case 'write':
    case 'create':
      return action.lines.length === 0;
    case 'send':
      return action.parts.length === 0;
    case 'tidy':
      return action.steps.length === 0;
    default:
      return false;
  }
}

/** Rules without a single line. */
export const writesNothing: Check = {
  kind: 'writes nothing',
  meaning: 'No action of the rule does anything yet.',
  find: ({ rule }) =>
    rule.actions.every((action) => isEmpty(action))
      ? [
          {
            severity: 'error',
            at: 'actions',
            message: 'The rule does nothing: no target field has a formula yet.',
          },
        ]
      : [],
};

import type { Check } from './finding';

/** Rules without a single line. */
export const writesNothing: Check = {
  kind: 'writes nothing',
  meaning: 'No target field of the rule has a formula.',
  find: ({ rule }) =>
    rule.actions.every(({ lines }) => lines.length === 0)
      ? [
          {
            severity: 'error',
            at: 'actions',
            message: 'The rule writes nothing: no target field has a formula yet.',
          },
        ]
      : [],
};

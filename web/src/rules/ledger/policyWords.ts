import type { WritePolicy } from '@vast-knot/core';

/** When a line is written, in words. */
export const policyWords: Readonly<Record<WritePolicy, string>> = {
  always: 'always',
  'target blank': 'only into a blank field',
  'value present': 'only when there is a value',
  'never clear': 'without clearing anything',
};

/** The same in the narrow column of the ledger. */
export const policyShort: Readonly<Record<WritePolicy, string>> = {
  always: 'always',
  'target blank': 'if blank there',
  'value present': 'if a value',
  'never clear': 'never clears',
};

import type { WritePolicy } from '@vast-knot/core';

/** When a line is written, in the narrow column of the ledger. */
export const policyShort: Readonly<Record<WritePolicy, string>> = {
  always: 'always',
  'target blank': 'if blank there',
  'value present': 'if a value',
  'never clear': 'never clears',
};

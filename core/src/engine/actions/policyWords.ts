import type { WritePolicy } from './mappingLine';

/** When a line is written, in words. */
export const policyWords: Readonly<Record<WritePolicy, string>> = {
  always: 'always',
  'target blank': 'only into a blank field',
  'value present': 'only when there is a value',
  'never clear': 'without clearing anything',
};

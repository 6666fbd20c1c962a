import type { Find } from '@vast-knot/core';

/** What a rule does where a find reaches nothing, in words. */
export const noneWords: Readonly<Record<Find['none'], string>> = {
  stop: 'stops here quietly',
  fail: 'fails',
  'go on': 'goes on with blanks',
  create: 'creates it with the write below',
};

/** What a rule does where a find reaches several, in words. */
export const severalWords: Readonly<Record<Find['several'], string>> = {
  fail: 'fails',
  each: 'does it for each',
  first: 'takes the first',
};

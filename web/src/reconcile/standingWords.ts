import type { ExistingStanding } from '@vast-knot/core';
import type { VerdictTone } from '../parts/Verdict';

/** How a record that exists stands, with the mark and the words for it. */
export const standingWords: Readonly<Record<ExistingStanding, readonly [VerdictTone, string]>> = {
  changes: ['will', 'would change'],
  right: ['settled', 'right already'],
  cannot: ['wrong', 'cannot be computed'],
  guard: ['quiet', 'guard does not hold'],
  none: ['quiet', 'reaches no record'],
};

/** The order in which they are told. */
export const standingOrder: readonly ExistingStanding[] = ['changes', 'right', 'cannot', 'guard', 'none'];

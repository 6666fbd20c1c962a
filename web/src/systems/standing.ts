import type { SystemHealth, SystemStanding } from '@vast-knot/core';
import type { VerdictTone } from '../parts/Verdict';

const words: Readonly<Record<SystemStanding, readonly [VerdictTone, string]>> = {
  answers: ['settled', 'answers'],
  slow: ['waiting', 'slow'],
  limited: ['waiting', 'limited'],
  away: ['wrong', 'away'],
};

/** Returns the mark and the word for how a system stands; of one that nothing was asked of yet, none. */
export function standingOf({ standing, since }: SystemHealth): readonly [VerdictTone, string] | undefined {
  return since === null ? undefined : words[standing];
}

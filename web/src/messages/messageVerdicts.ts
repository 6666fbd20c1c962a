import type { MessageState, MessageSummary } from '@vast-knot/core';
import type { VerdictTone } from '../parts/Verdict';

/** The mark and the word for how a message stands. */
export const messageVerdicts: Readonly<Record<MessageState, readonly [VerdictTone, string]>> = {
  waiting: ['waiting', 'on its way'],
  delivered: ['settled', 'delivered'],
  'given up': ['wrong', 'given up'],
};

/** Returns how a message stands: a file that people take by hand is there, and nobody delivers it. */
export function messageVerdict({
  state,
  way,
}: Pick<MessageSummary, 'state' | 'way'>): readonly [VerdictTone, string] {
  return way === 'download' ? ['settled', 'to be taken'] : messageVerdicts[state];
}

import type { MessageState } from '@vast-knot/core';
import type { VerdictTone } from '../parts/Verdict';

/** The mark and the word for how a message stands. */
export const messageVerdicts: Readonly<Record<MessageState, readonly [VerdictTone, string]>> = {
  waiting: ['waiting', 'on its way'],
  delivered: ['settled', 'delivered'],
  'given up': ['wrong', 'given up'],
};

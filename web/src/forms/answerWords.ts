import type { AnswerStanding } from '@vast-knot/core';
import type { VerdictTone } from '../parts/Verdict';

/** The mark and the word of each way in which an answer stands. */
export const answerWords: Readonly<Record<AnswerStanding, readonly [VerdictTone, string]>> = {
  done: ['settled', 'done'],
  'under way': ['waiting', 'under way'],
  failed: ['wrong', 'failed'],
  refused: ['wrong', 'refused'],
};

import type { InboxState, RunResult } from '@vast-knot/core';
import type { VerdictTone } from '../parts/Verdict';

const byResult: Readonly<Record<RunResult, readonly [VerdictTone, string]>> = {
  wrote: ['settled', 'wrote'],
  nothing: ['quiet', 'nothing to do'],
  'own write': ['quiet', 'our own write'],
  late: ['quiet', 'came late'],
  dropped: ['quiet', 'dropped'],
  'partly failed': ['wrong', 'partly failed'],
  failed: ['wrong', 'failed'],
};

/** Returns the mark and the word for how a run stands. */
export function runVerdict(
  state: InboxState,
  result: RunResult | null,
  attempts: number,
): readonly [VerdictTone, string] {
  if (state === 'malformed') return ['wrong', 'not understood'];
  if (state === 'refused') return ['wrong', 'refused'];
  if (state === 'waiting') return ['waiting', attempts > 0 ? 'will be tried again' : 'waiting'];
  return result ? byResult[result] : ['waiting', 'running'];
}

import type { PlannedWrite, ThingComparison, WriteState } from '@vast-knot/core';
import type { VerdictTone } from '../parts/Verdict';

/** A record as an outcome shows it: the change, and what it was made to. */
export interface OutcomeRecord extends Pick<PlannedWrite, 'change' | 'before' | 'rules'> {
  /** Absent on the bench, where nothing is written. */
  readonly state?: WriteState;
  readonly problem?: string | null;
  /** On the bench: what was expected of it. */
  readonly judged?: ThingComparison;
}

const states: Readonly<Record<WriteState, readonly [VerdictTone, string]>> = {
  planned: ['waiting', 'to be written'],
  sending: ['waiting', 'on its way'],
  written: ['settled', 'written'],
  failed: ['wrong', 'failed, will be tried again'],
  conflict: ['waiting', 'changed in between, computed anew'],
  refused: ['wrong', 'refused'],
  skipped: ['quiet', 'not written'],
};

/** A change that was made, and one that would be, in a word. */
const words = {
  edit: { done: 'written', would: 'would be written' },
  create: { done: 'created', would: 'would be created' },
  remove: { done: 'removed', would: 'would be removed' },
} as const;

/** Returns what is or would be done to a record, in a word. */
export function stateWords({ state, change, judged }: OutcomeRecord): readonly [VerdictTone, string] {
  const { done, would } = words[change.kind];
  if (state === 'written') return ['settled', done];
  if (state) return states[state];
  if (judged?.verdict === 'missing') return ['wrong', 'should be written and is not'];
  if (judged?.verdict === 'not expected') return ['wrong', `${would}, not expected`];
  if (judged?.expectedDeed && judged.deed !== judged.expectedDeed)
    return ['wrong', `${would}, not as expected`];
  return ['will', would];
}

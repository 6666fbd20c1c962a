import type { FieldEdit, JsonObject, RecordRef, ThingComparison, WriteState } from '@vast-knot/core';
import type { VerdictTone } from '../parts/Verdict';

export interface OutcomeRecord {
  readonly ref: RecordRef;
  readonly creates?: true;
  readonly removes?: true;
  readonly before: JsonObject;
  readonly edits: readonly FieldEdit[];
  readonly rules: readonly string[];
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

/** What is or would be done to a record, in a word. */
export function stateWords({
  state,
  creates,
  removes,
  judged,
}: OutcomeRecord): readonly [VerdictTone, string] {
  if (state === 'written') return ['settled', removes ? 'removed' : creates ? 'created' : 'written'];
  if (state) return states[state];
  if (judged?.verdict === 'missing') return ['wrong', 'should be written and is not'];
  const word = removes ? 'would be removed' : creates ? 'would be created' : 'would be written';
  if (judged?.verdict === 'not expected') return ['wrong', `${word}, not expected`];
  if (judged?.expectedDeed && judged.deed !== judged.expectedDeed)
    return ['wrong', `${word}, not as expected`];
  return ['will', word];
}

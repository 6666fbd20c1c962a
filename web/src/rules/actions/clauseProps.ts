import type { AnyAction, RecordType, RuleBody, Step } from '@vast-knot/core';

/** What the clause of an action is given. */
export interface ClauseProps<A extends AnyAction> {
  readonly at: number;
  readonly action: A;
  readonly body: RuleBody;
  readonly ruleId: string;
  /** The system and type of the record that the action is about. */
  readonly system: string;
  readonly type: RecordType;
  /** What the action does for the present sample. */
  readonly steps: readonly Step[];
}

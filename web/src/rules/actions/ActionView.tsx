import type { Action, RecordType, RuleBody, Step } from '@vast-knot/core';
import { ApplyClause } from './ApplyClause';
import { RemoveClause } from './RemoveClause';
import { SendClause } from './SendClause';
import { TidyClause } from './TidyClause';

export interface ClauseProps<A extends Action> {
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

/** An action that has no ledger, as a clause of the sheet. */
export function ActionView({ action, ...props }: ClauseProps<Action>) {
  switch (action.kind) {
    case 'remove':
      return <RemoveClause action={action} {...props} />;
    case 'send':
      return <SendClause action={action} {...props} />;
    case 'tidy':
      return <TidyClause action={action} {...props} />;
    case 'apply':
      return <ApplyClause action={action} {...props} />;
    default:
      return null;
  }
}

/** The steps of a report that belong to the action at a place. */
export function stepsOfAction(steps: readonly Step[] | undefined, at: number): readonly Step[] {
  return (steps ?? []).filter((step) => 'action' in step && step.action === at);
}

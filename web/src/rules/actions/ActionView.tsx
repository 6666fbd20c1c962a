import type { ComponentType } from 'react';
import type { Action, Step } from '@vast-knot/core';
import type { ClauseProps } from './clauseProps';
import { clauses } from './clauses';

/** An action that has no ledger, as a clause of the sheet. */
export function ActionView(props: ClauseProps<Action>) {
  const clause = clauses[props.action.kind];
  if (clause === 'ledger') return null;
  // The list has the clause of each kind under its own name.
  const Clause = clause as ComponentType<ClauseProps<Action>>;
  return <Clause {...props} />;
}

/** Returns the steps of a report that belong to the action at a place. */
export function stepsOfAction(steps: readonly Step[] | undefined, at: number): readonly Step[] {
  return (steps ?? []).filter((step) => 'action' in step && step.action === at);
}

import type { RemoveAction } from '@vast-knot/core';
import { TargetChoice } from './TargetChoice';
import type { ClauseProps } from './clauseProps';
import { useSetAction } from './useSetAction';
import { SystemTag } from '../../parts/SystemTag';
import { count } from '../../parts/time';
import { ActionTitle } from './ActionTitle';
import { OnlyWhen } from './OnlyWhen';

/** “then remove the booking from its system”. */
export function RemoveClause({ at, action, body, system, steps }: ClauseProps<RemoveAction>) {
  const setAction = useSetAction(at, 'remove');
  const removed = steps.filter((step) => step.kind === 'remove');
  return (
    <>
      <span className="ledger-title">
        <ActionTitle at={at} count={body.actions.length}>
          remove <SystemTag system={system} />
          <TargetChoice
            body={body}
            action={action}
            onChange={(target) => setAction((known) => ({ ...known, target }))}
          />
          from its system
        </ActionTitle>
        <OnlyWhen at={at} only={action.only ?? ''} />
      </span>
      {removed.length > 0 && (
        <p className="small will-text">
          This sample: {count(removed.length, 'record')} removed,{' '}
          <span className="mono">{removed.map(({ ref }) => ref.id).join(', ')}</span>
        </p>
      )}
    </>
  );
}

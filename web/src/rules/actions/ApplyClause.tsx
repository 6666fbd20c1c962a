import { Select } from '@mantine/core';
import { Link } from 'react-router';
import { article, type ApplyAction } from '@vast-knot/core';
import { useRules } from '../../api/queries';
import { useMay } from '../../frame/useMay';
import { SystemTag } from '../../parts/SystemTag';
import { count } from '../../parts/time';
import { ActionTitle } from './ActionTitle';
import type { ClauseProps } from './clauseProps';
import { OnlyWhen } from './OnlyWhen';
import { TargetChoice } from './TargetChoice';
import { useSetAction } from './useSetAction';

/** “then do what the rule … does for each person”. */
export function ApplyClause({ at, action, body, system, type, ruleId, steps }: ClauseProps<ApplyAction>) {
  const setAction = useSetAction(at, 'apply');
  const mayChange = useMay('rules.edit');
  const fitting = (useRules().data ?? []).filter(
    ({ id, draft }) =>
      id !== ruleId && draft.trigger.system === system && draft.trigger.recordType === type.name,
  );
  const applied = steps.find((step) => step.kind === 'applied');
  return (
    <>
      <span className="ledger-title">
        <ActionTitle at={at} count={body.actions.length}>
          do what{' '}
          <Select
            aria-label="Rule whose finds and actions are done"
            placeholder="a rule"
            data={fitting.map(({ id, draft }) => ({ value: id, label: draft.name }))}
            value={action.rule}
            disabled={!mayChange}
            onChange={(rule) => rule !== null && setAction((known) => ({ ...known, rule }))}
            w={300}
          />
          does, for <SystemTag system={system} />
          <TargetChoice
            body={body}
            action={action}
            label="Record that the other rule starts from"
            onChange={(target) => setAction((known) => ({ ...known, target }))}
          />
        </ActionTitle>
        <OnlyWhen at={at} only={action.only ?? ''} />
      </span>
      <p className="small dim">
        Its trigger and its guard do not count here; its finds and its actions do.{' '}
        {action.rule !== '' && <Link to={`/rules/${action.rule}`}>Open that rule</Link>}
        {fitting.length === 0 &&
          ` No other rule starts from ${article(type.label)} ${type.label.toLowerCase()}.`}
      </p>
      {applied && (
        <p className="small settled-text">This sample: done for {count(applied.records, 'record')}.</p>
      )}
    </>
  );
}

import { ActionIcon, Button } from '@mantine/core';
import { IconChevronDown, IconChevronUp } from '@tabler/icons-react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { NavLink, useNavigate } from 'react-router';
import {
  creates,
  labelAt,
  kindOf,
  sameRule,
  targetName,
  type Action,
  type Finding,
  type RuleBody,
  type RuleView,
  type SystemView,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, useRuleFindings, useRules, useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { SystemTag } from '../parts/SystemTag';
import { Empty, Failure, Loading } from '../parts/states';
import { Verdict } from '../parts/Verdict';
import { SeverityCount } from './findings/FindingNote';
import { RunsVersion } from './RunsVersion';

/** The rules in their order, each in a sentence. */
export function RulesPage() {
  const rules = useRules();
  const systems = useSystems();
  const findings = useRuleFindings().data;
  if (rules.isPending || systems.isPending) return <Loading />;
  if (rules.isError) return <Failure error={rules.error} again={() => void rules.refetch()} />;
  const known = systems.data ?? [];
  return (
    <div className="page">
      <div className="page-head">
        <h1>Rules</h1>
        <span className="dim">in the order in which they run</span>
        <NewRule systems={known} />
      </div>
      {rules.data.length === 0 && (
        <Empty title="There are no rules yet">
          A rule says what to write where when a record changes. Begin one with the button above.
        </Empty>
      )}
      <div className="boxed" role="list" aria-label="Rules">
        {rules.data.map((rule, at) => (
          <div role="listitem" key={rule.id} className="ordered">
            <OrderButtons rules={rules.data} at={at} />
            <NavLink to={`/rules/${rule.id}`} className="row rule-row">
              <span className="mono dim">{at + 1}</span>
              <span>
                <strong>{rule.draft.name}</strong>
                <RuleSentence body={rule.draft} systems={known} />
              </span>
              <span className="to-right">
                {rule.paused && <Verdict tone="will">paused</Verdict>}{' '}
                <RunsVersion
                  version={rule.published?.version}
                  same={rule.published !== null && sameRule(rule.published.body, rule.draft)}
                />
                <RuleFindingsCount findings={findings?.find(({ id }) => id === rule.id)?.findings} />
              </span>
            </NavLink>
          </div>
        ))}
      </div>
    </div>
  );
}

/** What the checks say about a rule as edited, held against all others. */
function RuleFindingsCount({ findings }: { readonly findings: readonly Finding[] | undefined }) {
  const errors = findings?.filter(({ severity }) => severity === 'error').length ?? 0;
  const warnings = findings?.filter(({ severity }) => severity === 'warning').length ?? 0;
  if (errors + warnings === 0) return null;
  return (
    <div className="small">
      {errors > 0 && <SeverityCount severity="error" number={errors} />}{' '}
      {warnings > 0 && <SeverityCount severity="warning" number={warnings} />}
    </div>
  );
}

function RuleSentence({
  body,
  systems,
}: {
  readonly body: RuleBody;
  readonly systems: readonly SystemView[];
}) {
  const typeOf = (key: string, name: string) =>
    systems.find((each) => each.key === key)?.recordTypes.find((each) => each.name === name);
  const type = typeOf(body.trigger.system, body.trigger.recordType);
  const watched = body.trigger.watched.map((path) => labelAt(type?.fields ?? [], path));
  const targets = body.actions.map((action) => {
    if (creates(action)) return { system: action.system, type: action.recordType };
    const find = body.finds.find(({ alias }) => alias === targetName(action));
    return find
      ? { system: find.system, type: find.recordType }
      : { system: body.trigger.system, type: body.trigger.recordType };
  });
  return (
    <div className="dim">
      <SystemTag system={body.trigger.system} /> {type?.label ?? body.trigger.recordType}{' '}
      {body.trigger.kinds.join(' or ')}
      {watched.length > 0 && `, when ${watched.join(' or ')} changed`}
      {targets.map((target, at) => (
        <span key={at}>
          <span className="arrow">→</span>
          <SystemTag system={target.system} /> {typeOf(target.system, target.type)?.label ?? target.type}
          {doneWith(body.actions[at])}
        </span>
      ))}
    </div>
  );
}

/** Returns what an action does with its record, in brackets. */
function doneWith(action: Action | undefined): string {
  return action ? ` (${kindOf(action).summary(action)})` : '';
}

/** Takes a rule one place up or down: rules on the same trigger run in this order. */
function OrderButtons({ rules, at }: { readonly rules: readonly RuleView[]; readonly at: number }) {
  const client = useQueryClient();
  const mayChange = useMay('rules.publish');
  const order = useMutation({
    mutationFn: (ids: readonly string[]) => ask<RuleView[]>('/rules/order', { method: 'PUT', body: { ids } }),
    onSuccess: (ordered) => client.setQueryData(keys.rules, ordered),
  });
  if (!mayChange) return null;
  const move = (by: 1 | -1) => {
    const ids = rules.map(({ id }) => id);
    const [moved = ''] = ids.splice(at, 1);
    order.mutate(ids.toSpliced(at + by, 0, moved));
  };
  const name = rules[at]?.draft.name ?? '';
  return (
    <span className="order">
      <ActionIcon
        variant="subtle"
        size={24}
        aria-label={`Run “${name}” earlier`}
        disabled={at === 0 || order.isPending}
        onClick={() => move(-1)}
      >
        <IconChevronUp size={14} />
      </ActionIcon>
      <ActionIcon
        variant="subtle"
        size={24}
        aria-label={`Run “${name}” later`}
        disabled={at === rules.length - 1 || order.isPending}
        onClick={() => move(1)}
      >
        <IconChevronDown size={14} />
      </ActionIcon>
    </span>
  );
}

function NewRule({ systems }: { readonly systems: readonly SystemView[] }) {
  const navigate = useNavigate();
  const mayChange = useMay('rules.edit');
  const [first] = systems;
  const create = useMutation({
    mutationFn: (body: RuleBody) => ask<RuleView>('/rules', { method: 'POST', body }),
    onSuccess: ({ id }) => void navigate(`/rules/${id}`),
  });
  if (!mayChange || !first) return null;
  const begin = () =>
    create.mutate({
      name: 'New rule',
      note: '',
      trigger: {
        system: first.key,
        recordType: first.recordTypes[0]?.name ?? '',
        kinds: ['updated'],
        watched: [],
      },
      guard: '',
      finds: [],
      actions: [{ kind: 'write', target: 'record', lines: [] }],
    });
  return (
    <span className="end">
      {create.isError && <span className="value wrong">{sentenceOf(create.error)}</span>}
      <Button onClick={begin} loading={create.isPending}>
        New rule
      </Button>
    </span>
  );
}

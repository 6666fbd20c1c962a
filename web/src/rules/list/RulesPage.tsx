import { Button } from '@mantine/core';
import { useDeferredValue, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { useRuleDeeds, useRuleFindings, useRules, useSystems } from '../../api/queries';
import { useMay } from '../../frame/useMay';
import { AsFile } from '../../parts/AsFile';
import { Empty, Failure, Loading } from '../../parts/states';
import { count } from '../../parts/time';
import { useAddress } from '../../parts/useAddress';
import { VirtualRows } from '../../parts/VirtualRows';
import { ChosenBar, chosenOf } from './ChosenBar';
import { Dragging } from './Dragging';
import { Heads } from './Heads';
import './list.css';
import { RemovedLink, RemovedRules } from './RemovedRules';
import { GroupChoice, RuleFilters } from './RuleFilters';
import {
  fits,
  groupings,
  listedRules,
  listLines,
  sorted,
  sortings,
  type ListLine,
  type RuleFilter,
} from './ruleList';
import { RuleRow } from './RuleRow';
import { SpecificationMenu } from './SpecificationMenu';
import { useRowDeeds } from './useRowDeeds';
import { useRuleWork } from './useRuleWork';

const heights = { rule: 58, group: 34 } as const;

/** All rules: searched, narrowed, grouped and sorted; what can be done with one or with several of them. */
export function RulesPage() {
  const rules = useRules();
  const systems = useSystems();
  if (rules.isPending || systems.isPending) return <Loading />;
  if (rules.isError) return <Failure error={rules.error} again={() => void rules.refetch()} />;
  return <RuleList />;
}

function RuleList() {
  const rules = useRules().data;
  const systems = useSystems().data;
  const findings = useRuleFindings().data;
  const deeds = useRuleDeeds().data;
  const work = useRuleWork();
  const mayEdit = useMay('rules.edit');
  const mayPublish = useMay('rules.publish');
  const [params, put] = useAddress();
  const filter = useMemo(() => filterOf(params), [params]);
  // What is typed stands at once; the list follows a moment later.
  const wanted = useDeferredValue(filter);
  const listed = useMemo(
    () => listedRules({ rules: rules ?? [], systems: systems ?? [], findings, deeds }),
    [rules, systems, findings, deeds],
  );
  const group = groupings.find((each) => each === params.get('group'));
  const by = sortings.find((each) => each === params.get('sort'));
  const turned = params.get('turned') !== null;
  const shown = useMemo(
    () =>
      sorted(
        listed.filter((each) => fits(each, wanted)),
        by,
        turned,
      ),
    [listed, wanted, by, turned],
  );
  const lines = useMemo(() => listLines(shown, group, systems ?? []), [shown, group, systems]);
  const [ids, setIds] = useState<ReadonlySet<string>>(new Set());
  /** Whether the rules that are chosen are about to be put into a folder. */
  const [filing, setFiling] = useState(false);
  const chosen = chosenOf(shown, ids);
  const rowDeeds = useRowDeeds({ listed, work, mayEdit, mayPublish, setIds, setFiling });
  if (params.get('state') === 'removed') return <RemovedRules back={() => put({ state: '' })} />;
  return (
    <div className="page rules-page">
      <div className="page-head">
        <h1>Rules</h1>
        <span className="dim">
          {shown.length === listed.length
            ? count(listed.length, 'rule')
            : `${shown.length} of ${count(listed.length, 'rule')}`}
        </span>
        <span className="end">
          <SpecificationMenu />
          <AsFile path="/lists/findings" what="Findings" />
          <RemovedLink open={() => put({ state: 'removed' })} />
          <GroupChoice group={group ?? ''} put={put} />
          {mayEdit && (
            <Button component={Link} to="/rules/new">
              New rule
            </Button>
          )}
        </span>
      </div>
      <RuleFilters filter={filter} listed={listed} systems={systems ?? []} put={put} />
      {chosen.length > 0 && (
        <ChosenBar
          chosen={chosen}
          folders={[...new Set(listed.map(({ rule }) => rule.folder))].filter((each) => each !== '')}
          work={work}
          mayPublish={mayPublish}
          filing={filing}
          setFiling={setFiling}
          clear={() => setIds(new Set())}
        />
      )}
      {listed.length === 0 ? (
        <Empty title="There are no rules yet">
          A rule says what to write where when a record changes. Begin one with the button above.
        </Empty>
      ) : lines.length === 0 ? (
        <Empty title="No rule is like that">Show all again, or look for something else.</Empty>
      ) : (
        <div className="boxed rule-list">
          <Heads
            by={by}
            turned={turned}
            put={put}
            all={shown.length > 0 && chosen.length === shown.length}
            some={chosen.length > 0}
            chooseAll={(all) => setIds(new Set(all ? shown.map(({ rule }) => rule.id) : []))}
          />
          <Dragging place={rowDeeds.place} lines={lines}>
            <VirtualRows
              items={lines}
              keyOf={keyOfLine}
              rowHeight={({ kind }) => heights[kind]}
              label="Rules"
              row={(line) =>
                line.kind === 'group' ? (
                  <h2 className="group-line">
                    {line.name} <span className="dim">{count(line.count, 'rule')}</span>
                    {line.ordered && <span className="dim">in the order in which they run</span>}
                  </h2>
                ) : (
                  <RuleRow
                    listed={line.listed}
                    systems={systems ?? []}
                    chosen={ids.has(line.listed.rule.id)}
                    movable={group === 'type' || wanted.type !== ''}
                    deeds={rowDeeds}
                  />
                )
              }
            />
          </Dragging>
        </div>
      )}
    </div>
  );
}

const keyOfLine = (line: ListLine) =>
  line.kind === 'group' ? `group ${line.name}` : `rule ${line.listed.rule.id}`;

function filterOf(params: URLSearchParams): RuleFilter {
  const value = (name: string) => params.get(name) ?? '';
  return {
    search: value('search'),
    system: value('system'),
    type: value('type'),
    state: value('state'),
    findings: value('findings'),
    who: value('who'),
    folder: value('folder'),
  };
}

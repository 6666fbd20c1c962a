import { Button, Select } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';
import {
  sameRule,
  type RuleBody,
  type RuleHistory,
  type RuleStop,
  type RuleVersion,
  type RuleView,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../../api/client';
import { keys, useRule, useRuleHistory, useSystems } from '../../api/queries';
import { useMay } from '../../frame/useMay';
import { Empty, Failure, Loading } from '../../parts/states';
import { shortTime } from '../../parts/time';
import { tellTrouble, tellWithUndo } from '../../parts/toast';
import { useAddress } from '../../parts/useAddress';
import { Verdict } from '../../parts/Verdict';
import { RuleSentence } from '../list/RuleSentence';
import { Differences } from './Differences';
import { useVerdicts } from './useVerdicts';
import { VerdictChanges } from './VerdictChanges';

/** Every publication of a rule, what changed between any two, and the way back to one. */
export function VersionsPage() {
  const { id = '' } = useParams();
  const rule = useRule(id);
  const history = useRuleHistory(id);
  if (rule.isError) return <Failure error={rule.error} again={() => void rule.refetch()} />;
  if (history.isError) return <Failure error={history.error} again={() => void history.refetch()} />;
  if (!rule.data || !history.data) return <Loading />;
  return <Versions rule={rule.data} history={history.data} />;
}

const draftName = 'draft';
const called = (key: string): string => (key === draftName ? 'the draft' : `version ${key}`);

function Versions({ rule, history }: { readonly rule: RuleView; readonly history: RuleHistory }) {
  const { versions, stops } = history;
  const [params, put] = useAddress();
  const bodies = new Map<string, RuleBody>([
    [draftName, rule.draft],
    ...versions.map(({ version, body }): [string, RuleBody] => [String(version), body]),
  ]);
  const named = (name: string, otherwise: string): string => {
    const key = params.get(name) ?? '';
    return bodies.has(key) ? key : otherwise;
  };
  const [usualOne, usualOther] = usual(rule, versions);
  const one = named('one', usualOne);
  const other = named('other', usualOther);
  const [before, after] = [bodies.get(one), bodies.get(other)];
  return (
    <div className="split versions-beside">
      <section aria-label="Versions">
        <div className="versions-head">
          <h1>Versions</h1>
          <Link to={`/rules/${rule.id}`}>{rule.draft.name}</Link>
        </div>
        {versions.length === 0 && (
          <Empty title="It was never published">Each publication is kept here with its note.</Empty>
        )}
        <ol className="version-list">
          <li className={other === draftName || one === draftName ? 'shown' : ''}>
            <strong>Draft</strong>{' '}
            <span className="small dim">
              edited {shortTime(rule.changedAt)}
              {rule.changedBy !== null && ` by ${rule.changedBy}`}
            </span>
          </li>
          {byTime(versions, stops).map((each) =>
            'why' in each ? (
              <li key={`stop ${each.at}`} className="small">
                <span className="dim">
                  {shortTime(each.at)} {each.by} stopped version {each.version}.
                </span>{' '}
                <span className="note-text">{each.why}</span>
              </li>
            ) : (
              <Version
                key={each.version}
                rule={rule}
                version={each}
                previous={versions.find(({ version }) => version < each.version)?.version}
                shown={[one, other].includes(String(each.version))}
                put={put}
              />
            ),
          )}
        </ol>
      </section>
      <article className="page" aria-label="What changed between two versions">
        <div className="page-head">
          <Choice label="From" keys={[...bodies.keys()]} value={one} put={(key) => put({ one: key })} />
          <Choice label="to" keys={[...bodies.keys()]} value={other} put={(key) => put({ other: key })} />
        </div>
        {before && after && (
          <Beside rule={rule} before={before} after={after} names={[called(one), called(other)]} />
        )}
      </article>
    </div>
  );
}

/** What is shown at first: the draft beside the newest version, or, where they say the same, that beside the one before. */
function usual({ draft, published }: RuleView, versions: readonly RuleVersion[]): readonly [string, string] {
  const newest = published ?? versions[0];
  if (!newest) return [draftName, draftName];
  const before = versions.find(({ version }) => version < newest.version);
  return before && sameRule(newest.body, draft)
    ? [String(before.version), String(newest.version)]
    : [String(newest.version), draftName];
}

function byTime(
  versions: readonly RuleVersion[],
  stops: readonly RuleStop[],
): readonly (RuleVersion | RuleStop)[] {
  return [...versions, ...stops].sort((a, b) => Date.parse(b.at) - Date.parse(a.at));
}

interface VersionProps {
  readonly rule: RuleView;
  readonly version: RuleVersion;
  readonly previous: number | undefined;
  readonly shown: boolean;
  readonly put: (changes: Readonly<Record<string, string>>) => void;
}

function Version({ rule, version: { version, by, at, note, body }, previous, shown, put }: VersionProps) {
  const mayEdit = useMay('rules.edit');
  const client = useQueryClient();
  const take = useMutation({
    mutationFn: ({ draft, revision }: { readonly draft: RuleBody; readonly revision: number }) =>
      ask<RuleView>(`/rules/${rule.id}/draft`, { method: 'PUT', body: draft, ifMatch: revision }),
    onSuccess: (view) => {
      client.setQueryData(keys.rule(rule.id), view);
      void client.invalidateQueries({ queryKey: keys.rules, exact: true });
    },
    onError: (error) => tellTrouble(sentenceOf(error)),
  });
  const goBack = () =>
    take.mutate(
      { draft: body, revision: rule.revision },
      {
        onSuccess: ({ revision }) =>
          tellWithUndo({
            text: `The draft of “${body.name}” is version ${version} now.`,
            undo: () => take.mutate({ draft: rule.draft, revision }),
          }),
      },
    );
  return (
    <li className={shown ? 'shown' : ''}>
      <div>
        <strong>Version {version}</strong>{' '}
        {rule.published?.version === version && <Verdict tone="settled">runs</Verdict>}{' '}
        <span className="small dim">
          {shortTime(at)} by {by}
        </span>
      </div>
      {note !== '' && <div className="note-text small">{note}</div>}
      <div className="small side-by-side">
        {previous !== undefined && (
          <button
            type="button"
            className="plain"
            onClick={() => put({ one: String(previous), other: String(version) })}
          >
            What it changed
          </button>
        )}
        <button
          type="button"
          className="plain"
          onClick={() => put({ one: String(version), other: draftName })}
        >
          Beside the draft
        </button>
        {mayEdit && !sameRule(body, rule.draft) && (
          <Button size="compact-xs" variant="default" loading={take.isPending} onClick={goBack}>
            Make it the draft
          </Button>
        )}
      </div>
    </li>
  );
}

interface ChoiceProps {
  readonly label: string;
  readonly keys: readonly string[];
  readonly value: string;
  readonly put: (key: string) => void;
}

function Choice({ label, keys: all, value, put }: ChoiceProps) {
  return (
    <Select
      aria-label={label}
      leftSection={<span className="small dim">{label}</span>}
      leftSectionWidth={44}
      allowDeselect={false}
      data={all.map((key) => ({ value: key, label: called(key) }))}
      value={value}
      onChange={(key) => key !== null && put(key)}
      w={190}
    />
  );
}

interface BesideProps {
  readonly rule: RuleView;
  readonly before: RuleBody;
  readonly after: RuleBody;
  readonly names: readonly [string, string];
}

function Beside({ rule, before, after, names }: BesideProps) {
  const systems = useSystems().data ?? [];
  const verdicts = useVerdicts({ rule, one: before, other: after });
  return (
    <>
      <div className="version-sentences">
        {[before, after].map((body, at) => (
          <div key={names[at]} className="small">
            <span className="dim">In {names[at]}:</span> <RuleSentence body={body} systems={systems} />
          </div>
        ))}
      </div>
      <Differences before={before} after={after} names={names} />
      <h2 className="version-samples">What the samples say</h2>
      <VerdictChanges verdicts={verdicts} names={names} />
    </>
  );
}

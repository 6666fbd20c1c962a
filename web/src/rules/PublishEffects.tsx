import { useDebouncedValue } from '@mantine/hooks';
import { memo, useMemo } from 'react';
import { Link } from 'react-router';
import { sameRule, type Rule, type RuleBody, type RuleView, type Sample } from '@vast-knot/core';
import { useKnown, useRules, useWholeSamples } from '../api/queries';
import type { VerdictChange } from '../bench/replay';
import { publishedOf } from '../bench/rulesAgainst';
import { sampleVerdicts } from '../bench/SampleRow';
import { count } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { useWork } from '../work/useWork';

/** How long a rule must stay as it is before its samples are replayed. */
const settledMs = 700;

interface PublishEffectsProps {
  readonly rule: RuleView;
  readonly body: RuleBody;
}

/** The verdicts of the samples that the rule may have a part in, and which of them publishing the draft would change. */
export const PublishEffects = memo(function PublishEffects({ rule, body }: PublishEffectsProps) {
  const { known } = useKnown();
  const samples = useWholeSamples().data;
  const rules = useRules().data;
  const [settled] = useDebouncedValue(body, settledMs);
  const input = useMemo(() => {
    if (!samples || !rules) return undefined;
    const now = publishedOf(rules);
    const draft: Rule = { ...settled, id: rule.id, version: 0 };
    const kept = now.some(({ id }) => id === rule.id);
    const then = kept ? now.map((each) => (each.id === rule.id ? draft : each)) : [...now, draft];
    return { now, then, samples: samples.filter((sample) => concerns(sample, settled)) };
  }, [samples, rules, settled, rule.id]);
  const { output } = useWork('verdictChanges', input, known);
  if (!output || output.length === 0) {
    return (
      <section className="effects" aria-label="Samples of this rule">
        <span className="small dim">
          {output ? 'No sample concerns this rule yet.' : 'The samples are being replayed …'}
        </span>
      </section>
    );
  }
  const same = rule.published !== null && sameRule(rule.published.body, settled);
  const of = (verdict: VerdictChange['then']) => output.filter(({ then }) => then === verdict);
  const changed = same ? [] : output.filter(({ now, then }) => now !== then);
  const differ = of('differs');
  return (
    <section className="effects" aria-label="Samples of this rule">
      <span className="small dim">{same ? 'Samples:' : 'Samples, once published:'}</span>
      <Verdict tone="settled">{of('holds').length} hold</Verdict>
      {differ.length > 0 && <Verdict tone="wrong">{differ.length} differ</Verdict>}
      {!same && (
        <span className="small dim">
          {changed.length === 0
            ? 'Publishing changes no verdict.'
            : `Publishing changes ${count(changed.length, 'verdict')}:`}
        </span>
      )}
      {(changed.length > 0 ? changed : differ).slice(0, 6).map(({ id, name, now, then }) => (
        <Link key={id} to={`/bench/${id}?against=${same ? 'published' : 'drafts'}`} className="small">
          {name}
          {now !== then && `: ${sampleVerdicts[now][1]} → ${sampleVerdicts[then][1]}`}
        </Link>
      ))}
    </section>
  );
});

/** Returns whether a sample has records that could start the rule, its own or one that others write. */
function concerns({ event, records }: Sample, { trigger }: RuleBody): boolean {
  const starts = ({ system, recordType }: Sample['event']['ref']) =>
    system === trigger.system && recordType === trigger.recordType;
  return starts(event.ref) || records.some(({ ref }) => starts(ref));
}

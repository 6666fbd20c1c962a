import { useDebouncedValue } from '@mantine/hooks';
import { memo } from 'react';
import { Link } from 'react-router';
import { sameRule, type RuleBody, type RuleView } from '@vast-knot/core';
import type { VerdictChange } from '../bench/replay';
import { sampleVerdicts } from '../bench/SampleRow';
import { count } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { useVerdicts } from './versions/useVerdicts';

/** How long a rule must stay as it is before its samples are replayed. */
const settledMs = 700;

interface PublishEffectsProps {
  readonly rule: RuleView;
  readonly body: RuleBody;
}

/** The verdicts of the samples that the rule may have a part in, and which of them publishing the draft would change. */
export const PublishEffects = memo(function PublishEffects({ rule, body }: PublishEffectsProps) {
  const [settled] = useDebouncedValue(body, settledMs);
  const output = useVerdicts({ rule, one: rule.published?.body, other: settled });
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

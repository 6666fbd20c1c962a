import { Button } from '@mantine/core';
import { useMemo } from 'react';
import { expectField, type Rule, type Sample } from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { Payload } from '../parts/Payload';
import { Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import type { Known } from '../work/known';
import { useWork } from '../work/useWork';
import { AgainstChoice } from './AgainstChoice';
import type { Against } from './rulesAgainst';
import { Expecting } from './expecting';
import { JudgedOutcome } from './JudgedOutcome';
import { RuleReports } from './RuleReports';
import { SampleHead } from './SampleHead';
import { SampleConflictNote } from './SampleConflictNote';
import { useExpected } from './useExpected';

interface ReplayViewProps {
  readonly sample: Sample;
  readonly rules: readonly Rule[];
  readonly against: Against;
  readonly known: Known;
}

/** One sample replayed: the records as they would be beside what is expected of them, and what each rule did. */
export function ReplayView({ sample, rules, against, known }: ReplayViewProps) {
  const mayChange = useMay('samples.change');
  const input = useMemo(() => ({ rules, sample }), [rules, sample]);
  const { output, error } = useWork('replay', input, known);
  const { expect, acceptAll, failure, conflict, saveOver, leave, isPending } = useExpected(
    sample,
    output?.outcome,
  );
  const saying = useMemo(() => {
    if (!mayChange || !output || !sample.expected) return undefined;
    const { expected } = sample;
    return (...[thing, path, expectation]: Parameters<NonNullable<React.ContextType<typeof Expecting>>>) =>
      expect(expectField(expected, output.outcome, { key: thing, path, expectation }));
  }, [mayChange, output, sample, expect]);
  if (error !== undefined) return <Failure error={error} />;
  if (!output) return <Loading />;
  const { report, outcome, comparison, mistakes } = output;
  const type = known.systems
    .find(({ key }) => key === sample.event.ref.system)
    ?.recordTypes.find(({ name }) => name === sample.event.ref.recordType);
  return (
    <article className="page" aria-label="Replay">
      <SampleHead sample={sample}>
        <AgainstChoice against={against} />
      </SampleHead>
      {mistakes.map(({ rule, problems }) => (
        <div key={rule} className="note wrong" role="alert">
          <strong>{rule}</strong> does not take part: {problems.map(({ message }) => message).join(' ')}
        </div>
      ))}
      <div
        className={`note bench-verdict ${comparison.verdict === 'differs' ? 'wrong' : comparison.verdict === 'holds' ? 'settled' : ''}`}
        role="status"
        aria-label="Verdict of the sample"
      >
        {comparison.verdict === 'holds' && (
          <Verdict tone="settled">As expected. A replay writes to no system.</Verdict>
        )}
        {comparison.verdict === 'differs' && (
          <Verdict tone="wrong">
            {count(comparison.differences, 'difference')} from what is expected. A replay writes to no system.
          </Verdict>
        )}
        {comparison.verdict === 'nothing expected' && (
          <Verdict tone="quiet">Nobody has said yet what is expected. A replay writes to no system.</Verdict>
        )}
        {comparison.differences > 1 && (
          <span className="small dim">
            <kbd>N</kbd> next difference, <kbd>P</kbd> previous
          </span>
        )}
        {mayChange && comparison.verdict !== 'holds' && (
          <Button size="compact-sm" variant="default" onClick={acceptAll}>
            {sample.expected ? 'Accept the whole outcome' : 'Expect this outcome from now on'}
          </Button>
        )}
        {failure !== undefined && <span className="value wrong">{failure}</span>}
      </div>
      {conflict && (
        <SampleConflictNote conflict={conflict} saveOver={saveOver} leave={leave} busy={isPending} />
      )}
      <div className="bench-columns">
        <div>
          <section aria-label="Outcome">
            <h2>
              Outcome <span className="dim small">the records as they would be</span>
            </h2>
            <Expecting value={saying}>
              <JudgedOutcome outcome={outcome} comparison={comparison} />
            </Expecting>
          </section>
          <section aria-label="Rules">
            <h2>Rules</h2>
            <RuleReports reports={report.rules} sample={sample.id} />
          </section>
        </div>
        <section aria-label="Payload">
          <h2>
            Payload <span className="dim small">{sample.event.kind}</span>
          </h2>
          <div className="boxed payload-box">
            <Payload type={type} event={sample.event} />
          </div>
        </section>
      </div>
    </article>
  );
}

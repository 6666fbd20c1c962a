import type { Report, RunDetail } from '@vast-knot/core';
import { sentenceOf } from '../api/client';
import { RuleReports } from '../bench/RuleReports';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import { useTakeSample } from './useTakeSample';

/** What each rule did in a run; from any step one can go on with the rule as a draft, over the same payload. */
export function RunRules({ run, report }: { readonly run: RunDetail; readonly report: Report }) {
  const mayChange = useMay('rules.edit');
  const take = useTakeSample(run);
  const takeUp = (rule: string, place: string) =>
    take.mutate({ to: (sample) => `/rules/${rule}?sample=${sample}${place === '' ? '' : `&${place}`}` });
  return (
    <section aria-label="Rules">
      <h2>Rules</h2>
      {take.isError && <div className="note wrong">{sentenceOf(take.error)}</div>}
      <RuleReports
        reports={report.rules}
        takeUp={mayChange && run.event && !run.event.brings ? takeUp : undefined}
        ofMany={run.event?.brings !== undefined}
      />
      {report.passedOver !== undefined && (
        <p className="dim">
          {count(report.passedOver, 'further rule', 'further rules')} of this record type{' '}
          {report.passedOver === 1 ? 'is' : 'are'} not concerned: nothing that{' '}
          {report.passedOver === 1 ? 'it watches' : 'they watch'} has changed.
        </p>
      )}
      {report.problems.map((problem) => (
        <div key={problem} className="note wrong">
          {problem}
        </div>
      ))}
    </section>
  );
}

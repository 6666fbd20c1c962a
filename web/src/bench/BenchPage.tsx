import { useMemo } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import type { Rule, RuleView } from '@vast-knot/core';
import { useKnown, useRules, useWholeSamples } from '../api/queries';
import { Empty, Failure, Loading } from '../parts/states';
import { useWork } from '../work/useWork';
import type { SampleDifferences, SampleResult } from './replay';
import { ReplayView } from './ReplayView';
import { SampleList } from './SampleList';
import { useBenchKeys } from './useBenchKeys';
import { VersionsView } from './VersionsView';

export type Against = 'drafts' | 'published' | 'both';

/** Where samples are replayed and their outcome is read: nothing is written anywhere. */
export function BenchPage() {
  const { sample: id } = useParams();
  const samples = useWholeSamples();
  const rules = useRules();
  const { known, error } = useKnown();
  const [params] = useSearchParams();
  const against = againstIn(params);
  const drafts = useMemo(() => rules.data && rulesAgainst(rules.data, 'drafts'), [rules.data]);
  const published = useMemo(() => rules.data && rulesAgainst(rules.data, 'published'), [rules.data]);
  const taking = against === 'published' ? published : drafts;
  const all = useMemo(
    () =>
      against !== 'both' && taking && samples.data ? { rules: taking, samples: samples.data } : undefined,
    [against, taking, samples.data],
  );
  const both = useMemo(
    () =>
      against === 'both' && published && drafts && samples.data
        ? { now: published, then: drafts, samples: samples.data }
        : undefined,
    [against, published, drafts, samples.data],
  );
  const replayed = useWork('replayAll', all, known).output;
  const compared = useWork('compareAll', both, known).output;
  const results = useMemo(
    () => (against === 'both' ? (compared ?? []).map(asResult) : (replayed ?? [])),
    [against, compared, replayed],
  );
  useBenchKeys(samples.data ?? [], id);
  const failed = [samples, rules].find(({ isError }) => isError);
  if (failed) return <Failure error={failed.error} again={() => void failed.refetch()} />;
  if (error !== undefined) return <Failure error={error} />;
  if (!samples.data || !taking || !known) return <Loading />;
  const chosen = samples.data.find((sample) => sample.id === id) ?? samples.data[0];
  if (!chosen) {
    return (
      <Empty title="There is no sample yet">
        Open a run and press <strong>Replay on the bench</strong>: its event and the records it met are kept
        as a sample, which can be replayed against your draft as often as you like. Or{' '}
        <Link to="/bench/new">make one of a record</Link> that is there.
      </Empty>
    );
  }
  return (
    <div className="split" style={{ gridTemplateColumns: '330px 1fr' }}>
      <SampleList samples={samples.data} chosen={chosen.id} results={results} />
      {against === 'both' ? (
        <VersionsView sample={chosen} compared={compared?.find(({ id: own }) => own === chosen.id)} />
      ) : (
        <ReplayView key={chosen.id} sample={chosen} rules={taking} against={against} known={known} />
      )}
    </div>
  );
}

function againstIn(params: URLSearchParams): Against {
  const named = params.get('against');
  return named === 'drafts' || named === 'both' ? named : 'published';
}

function asResult({ id, differences }: SampleDifferences): SampleResult {
  return { id, verdict: differences.length > 0 ? 'differs' : 'holds', differences: differences.length };
}

/** The rules that take part: all as they are edited, or those that are published, as they were published. */
function rulesAgainst(rules: readonly RuleView[], against: 'drafts' | 'published'): readonly Rule[] {
  return rules.flatMap(({ id, draft, published }): Rule[] => {
    if (against === 'drafts') return [{ ...draft, id, version: 0 }];
    return published ? [{ ...published.body, id, version: published.version }] : [];
  });
}

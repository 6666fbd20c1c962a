import { useMemo } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { useKnown, useRules, useVersions, useWholeSamples } from '../api/queries';
import { Empty, Failure, Loading } from '../parts/states';
import { useWork } from '../work/useWork';
import type { SampleDifferences, SampleResult } from './replay';
import { Removed } from './Removed';
import { ReplayView } from './ReplayView';
import { againstIn, draftsOf, publishedOf, versionKey } from './rulesAgainst';
import { SampleList } from './SampleList';
import { useBenchKeys } from './useBenchKeys';
import { VersionsView } from './VersionsView';

/** Where samples are replayed and their outcome is read: nothing is written anywhere. */
export function BenchPage() {
  const { sample: id } = useParams();
  const samples = useWholeSamples();
  const rules = useRules();
  const { known, error } = useKnown();
  const [params] = useSearchParams();
  const versions = useVersions();
  const earlier = versions.data?.find((each) => versionKey(each) === params.get('against'));
  const against = againstIn(params, earlier);
  const drafts = useMemo(() => rules.data && draftsOf(rules.data), [rules.data]);
  const published = useMemo(() => rules.data && publishedOf(rules.data, earlier), [rules.data, earlier]);
  const taking = against === 'drafts' ? drafts : published;
  const all = useMemo(
    () =>
      against !== 'both' && taking && versions.data && samples.data
        ? { rules: taking, samples: samples.data }
        : undefined,
    [against, taking, versions.data, samples.data],
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
  const failed = [samples, rules, versions].find(({ isError }) => isError);
  if (failed) return <Failure error={failed.error} again={() => void failed.refetch()} />;
  if (error !== undefined) return <Failure error={error} />;
  if (!samples.data || !taking || !versions.data || !known) return <Loading />;
  const chosen = samples.data.find((sample) => sample.id === id) ?? samples.data[0];
  if (!chosen) {
    return (
      <Empty title="There is no sample yet">
        <Removed />
        Open a run and press <strong>Replay on the bench</strong>: its event and the records it met are kept
        as a sample, which can be replayed against your draft as often as you like. Or{' '}
        <Link to="/bench/new">make one of a record</Link> that is there.
      </Empty>
    );
  }
  return (
    <div className="split samples-beside">
      <SampleList samples={samples.data} chosen={chosen.id} results={results} />
      {against === 'both' ? (
        <VersionsView sample={chosen} compared={compared?.find(({ id: own }) => own === chosen.id)} />
      ) : (
        <ReplayView key={chosen.id} sample={chosen} rules={taking} against={against} known={known} />
      )}
    </div>
  );
}

function asResult({ id, differences, starts }: SampleDifferences): SampleResult {
  const { length } = differences;
  return { id, verdict: length > 0 ? 'differs' : 'holds', differences: length, starts };
}

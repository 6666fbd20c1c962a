import { Button, SegmentedControl } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useMemo } from 'react';
import { NavLink, useNavigate, useParams, useSearchParams } from 'react-router';
import type { Rule, Sample, SampleSummary } from '@vast-knot/core';
import { ask } from '../api/client';
import { useKnown, useRules, useSample, useSamples } from '../api/queries';
import { useMayChange } from '../frame/useRole';
import { Payload } from '../parts/Payload';
import { SystemTag } from '../parts/SystemTag';
import { Empty, Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { Outcome } from './Outcome';
import type { ReplayInput } from './replay';
import { useWork } from '../work/useWork';
import { RuleReports } from './RuleReports';

/** Where samples are replayed: nothing is written anywhere. */
export function BenchPage() {
  const { sample: id } = useParams();
  const samples = useSamples();
  if (samples.isPending) return <Loading />;
  if (samples.isError) return <Failure error={samples.error} again={() => void samples.refetch()} />;
  const chosen = id ?? samples.data[0]?.id;
  if (chosen === undefined) {
    return (
      <Empty title="There is no sample yet">
        Open a run and press <strong>Replay on the bench</strong>: its event and the records it met are kept
        as a sample, which can be replayed against your draft as often as you like.
      </Empty>
    );
  }
  return (
    <div className="split" style={{ gridTemplateColumns: '290px 1fr' }}>
      <nav aria-label="Samples">
        <h1 style={{ fontSize: 17, margin: 0, padding: '12px 14px 8px' }}>Bench</h1>
        {samples.data.map((sample) => (
          <SampleRow key={sample.id} sample={sample} active={sample.id === chosen} />
        ))}
      </nav>
      <Replay id={chosen} />
    </div>
  );
}

function SampleRow({ sample, active }: { readonly sample: SampleSummary; readonly active: boolean }) {
  return (
    <NavLink
      to={`/bench/${sample.id}`}
      className={`row ${active ? 'active' : ''}`}
      style={{ padding: '8px 14px', gap: 2 }}
    >
      <span>
        <SystemTag system={sample.ref.system} /> {sample.name}
      </span>
      <span className="small dim">
        {sample.ref.recordType} <span className="mono">{sample.ref.id}</span> {sample.kind},{' '}
        {count(sample.records, 'record')} kept
      </span>
    </NavLink>
  );
}

function Replay({ id }: { readonly id: string }) {
  const sample = useSample(id);
  const { known, error } = useKnown();
  const rules = useRules();
  const [params, setParams] = useSearchParams();
  const against = params.get('against') === 'published' ? 'published' : 'drafts';
  const input = useMemo<ReplayInput | undefined>(() => {
    if (!sample.data || !rules.data) return undefined;
    const taking = rules.data.flatMap((rule): Rule[] => {
      if (against === 'drafts') return [{ ...rule.draft, id: rule.id, version: 0 }];
      return rule.published ? [{ ...rule.published.body, id: rule.id, version: rule.published.version }] : [];
    });
    return { rules: taking, sample: sample.data };
  }, [sample.data, rules.data, against]);
  const replay = useWork('replay', input, known);
  const failed = [sample, rules].find(({ isError }) => isError);
  if (failed) return <Failure error={failed.error} again={() => void failed.refetch()} />;
  if (error !== undefined || replay.error !== undefined) return <Failure error={error ?? replay.error} />;
  if (!sample.data || !replay.output) return <Loading />;
  const { report, mistakes } = replay.output;
  const type = known?.systems
    .find(({ key }) => key === sample.data.event.ref.system)
    ?.recordTypes.find(({ name }) => name === sample.data.event.ref.recordType);
  return (
    <article className="page" aria-label="Replay">
      <div className="page-head">
        <h1>{sample.data.name}</h1>
        <Verdict tone="quiet">nothing is written</Verdict>
        <span className="end">
          <SegmentedControl
            size="xs"
            aria-label="Replay against"
            data={[
              { value: 'drafts', label: 'Rules as edited' },
              { value: 'published', label: 'Rules as published' },
            ]}
            value={against}
            onChange={(value) =>
              setParams(value === 'published' ? { against: value } : {}, { replace: true })
            }
          />
          <Forget sample={sample.data} />
        </span>
      </div>
      {mistakes.map(({ rule, problems }) => (
        <div key={rule} className="note wrong" role="alert">
          <strong>{rule}</strong> does not take part: {problems.map(({ message }) => message).join(' ')}
        </div>
      ))}
      <div style={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 340px', gap: 24 }}>
        <div>
          <section aria-label="Outcome">
            <h2>
              Outcome <span className="dim small">the records as they would be</span>
            </h2>
            <Outcome records={report.writes.map((write) => ({ ...write, before: { ...write.before } }))} />
            {report.problems.map((problem) => (
              <div key={problem} className="note wrong">
                {problem}
              </div>
            ))}
          </section>
          <section aria-label="Rules">
            <h2>Rules</h2>
            <RuleReports reports={report.rules} />
          </section>
        </div>
        <section aria-label="Payload">
          <h2>
            Payload <span className="dim small">{sample.data.event.kind}</span>
          </h2>
          <div className="boxed" style={{ padding: '4px 2px' }}>
            <Payload type={type} event={sample.data.event} />
          </div>
          <p className="small dim">{sample.data.note}</p>
        </section>
      </div>
    </article>
  );
}

function Forget({ sample }: { readonly sample: Sample }) {
  const navigate = useNavigate();
  const mayChange = useMayChange();
  const forget = useMutation({
    mutationFn: () => ask(`/samples/${sample.id}`, { method: 'DELETE' }),
    onSuccess: () => void navigate('/bench'),
  });
  if (!mayChange) return null;
  return (
    <Button variant="subtle" color="rust" loading={forget.isPending} onClick={() => forget.mutate()}>
      Remove the sample
    </Button>
  );
}

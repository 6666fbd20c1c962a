import { Button, Select, TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { useMemo } from 'react';
import { Link, NavLink, useSearchParams } from 'react-router';
import type { Sample, SampleVerdict } from '@vast-knot/core';
import { useMayChange } from '../frame/useRole';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import { VirtualRows } from '../parts/VirtualRows';
import type { SampleResult } from './replay';

export const sampleVerdicts: Readonly<Record<SampleVerdict, readonly [VerdictTone, string]>> = {
  holds: ['settled', 'holds'],
  differs: ['wrong', 'differs'],
  'nothing expected': ['quiet', 'expects nothing yet'],
};

const verdictChoices = [
  { value: '', label: 'Every verdict' },
  { value: 'differs', label: 'Differ' },
  { value: 'holds', label: 'Hold' },
  { value: 'nothing expected', label: 'Expect nothing yet' },
];

interface SampleListProps {
  readonly samples: readonly Sample[];
  readonly chosen: string;
  /** What came of replaying them; shorter than the samples while that goes on. */
  readonly results: readonly SampleResult[];
}

/** The samples with a verdict each. */
export function SampleList({ samples, chosen, results }: SampleListProps) {
  const mayChange = useMayChange();
  const [params, setParams] = useSearchParams();
  const [search, wanted] = [params.get('find') ?? '', params.get('verdict') ?? ''];
  const known = useMemo(() => new Map(results.map((result) => [result.id, result])), [results]);
  const shown = useMemo(
    () =>
      samples.filter(
        (sample) =>
          (wanted === '' || known.get(sample.id)?.verdict === wanted) &&
          textOf(sample).includes(search.toLowerCase()),
      ),
    [samples, known, search, wanted],
  );
  const set = (name: string, value: string) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        if (value === '') next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  const query = params.toString();
  return (
    <nav aria-label="Samples" className="sample-list">
      <div className="sample-list-head">
        <div className="head">
          <h1>Bench</h1>
          {mayChange && (
            <Button component={Link} to="/bench/new" size="compact-sm" variant="default">
              New sample
            </Button>
          )}
        </div>
        <Link to="/bench/history" className="small">
          Edited against published, over real history
        </Link>
        <Tally results={results} />
        <TextInput
          aria-label="Find a sample"
          placeholder="Name, tag or record"
          leftSection={<IconSearch size={13} />}
          value={search}
          onChange={({ currentTarget: { value } }) => set('find', value)}
        />
        <Select
          aria-label="Verdict"
          data={verdictChoices}
          value={wanted}
          onChange={(value) => set('verdict', value ?? '')}
        />
      </div>
      {shown.length === 0 ? (
        <p className="dim" style={{ padding: '0 14px' }}>
          No sample fits.
        </p>
      ) : (
        <VirtualRows
          label="Samples"
          items={shown}
          rowHeight={58}
          row={(sample) => (
            <SampleRow
              sample={sample}
              result={known.get(sample.id)}
              active={sample.id === chosen}
              query={query}
            />
          )}
        />
      )}
    </nav>
  );
}

function Tally({ results }: { readonly results: readonly SampleResult[] }) {
  const of = (verdict: SampleVerdict) => results.filter((result) => result.verdict === verdict).length;
  const [differ, hold, nothing] = [of('differs'), of('holds'), of('nothing expected')];
  return (
    <p className="tally" role="status" aria-label="Verdicts">
      <Verdict tone={differ > 0 ? 'wrong' : 'quiet'}>{differ} differ</Verdict>
      <Verdict tone="settled">{hold} hold</Verdict>
      {nothing > 0 && <Verdict tone="quiet">{nothing} expect nothing</Verdict>}
    </p>
  );
}

interface SampleRowProps {
  readonly sample: Sample;
  readonly result: SampleResult | undefined;
  readonly active: boolean;
  readonly query: string;
}

function SampleRow({ sample, result, active, query }: SampleRowProps) {
  const [tone, word] = result ? sampleVerdicts[result.verdict] : (['waiting', 'is replayed'] as const);
  const { ref, kind } = sample.event;
  return (
    <NavLink to={`/bench/${sample.id}?${query}`} className={`row sample-row ${active ? 'active' : ''}`}>
      <span className="name">
        <SystemTag system={ref.system} /> {sample.name}
      </span>
      <span className="small dim">
        <Verdict tone={tone}>
          {result?.verdict === 'differs' ? count(result.differences, 'difference') : word}
        </Verdict>{' '}
        {ref.recordType} <span className="mono">{ref.id}</span> {kind}
      </span>
    </NavLink>
  );
}

function textOf({ name, tags = [], event }: Sample): string {
  return [name, ...tags, event.ref.recordType, event.ref.id, ...event.changed].join(' ').toLowerCase();
}

import { NavLink } from 'react-router';
import type { Sample, SampleVerdict } from '@vast-knot/core';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import type { SampleResult } from './replay';

export const sampleVerdicts: Readonly<Record<SampleVerdict, readonly [VerdictTone, string]>> = {
  holds: ['settled', 'holds'],
  differs: ['wrong', 'differs'],
  'nothing expected': ['quiet', 'expects nothing yet'],
};

interface SampleRowProps {
  readonly sample: Sample;
  readonly result: SampleResult | undefined;
  readonly active: boolean;
  readonly query: string;
}

/** A sample in the list: its name, its verdict and what it is about. */
export function SampleRow({ sample, result, active, query }: SampleRowProps) {
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

import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense } from 'react';
import type { RunTimes as Times } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys, runQuery } from '../api/queries';
import type { AddressChanges } from '../parts/useAddress';
import { digits } from '../parts/habits';

const TimesChart = lazy(async () => ({ default: (await import('../parts/TimesChart')).TimesChart }));

interface RunTimesProps {
  readonly params: URLSearchParams;
  readonly put: (changes: AddressChanges) => void;
}

/** When the runs of the list came, with a stretch to choose. */
export function RunTimes({ params, put }: RunTimesProps) {
  const query = runQuery(params).toString();
  const times = useQuery({
    queryKey: keys.runTimes(query),
    queryFn: () => ask<Times>(`/runs/times?${query}`),
    // It counts thousands of runs: with each notice of one it would be asked for without end.
    refetchInterval: 5000,
    placeholderData: (known) => known,
  });
  if (!times.data || times.data.stretches.length === 0) return null;
  const { stretches, step, newest } = times.data;
  return (
    <section className="run-times" aria-label="When they came">
      <Suspense fallback={<div className="times-chart" />}>
        <TimesChart
          stretches={stretches}
          step={step}
          label="When these runs came, by what came of them"
          choose={(from, to) => put({ from, to })}
        />
      </Suspense>
      {newest !== null && (
        <p className="small dim flush">The newest {digits(newest)} are counted; there are more.</p>
      )}
    </section>
  );
}

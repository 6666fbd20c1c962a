import { Button, Progress } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import type { RunDetail } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import { digits } from '../parts/habits';

interface RunProgressProps {
  readonly id: string;
  /** How far it has come; null where nothing is planned yet. */
  readonly progress: RunDetail['progress'];
}

/** How far a run has come that is at work or waits, and stopping it. */
export function RunProgress({ id, progress }: RunProgressProps) {
  const mayChange = useMay('runs.stop');
  const stop = useMutation({ mutationFn: () => ask(`/runs/${id}/stop`, { method: 'POST' }) });
  return (
    <div className="run-progress" role="status">
      {progress && (
        <>
          <Progress
            value={(100 * progress.written) / Math.max(1, progress.planned)}
            aria-label="Records written"
            size="lg"
            color="ember"
          />
          <span className="small">
            {digits(progress.written)} of {count(progress.planned, 'record')} written; other records are not
            held up
          </span>
        </>
      )}
      {mayChange && (
        <Button
          variant="default"
          size="compact-sm"
          loading={stop.isPending}
          disabled={stop.isSuccess}
          onClick={() => stop.mutate()}
        >
          {stop.isSuccess ? 'Stops after the writes on their way' : 'Stop this run'}
        </Button>
      )}
      {stop.isError && <span className="value wrong">{sentenceOf(stop.error)}</span>}
    </div>
  );
}

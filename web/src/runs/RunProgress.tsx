import { Button, Progress } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';

interface RunProgressProps {
  readonly id: string;
  readonly written: number;
  readonly planned: number;
}

/** How far a run has come that is still writing, and stopping it. */
export function RunProgress({ id, written, planned }: RunProgressProps) {
  const mayChange = useMay('runs.stop');
  const stop = useMutation({ mutationFn: () => ask(`/runs/${id}/stop`, { method: 'POST' }) });
  return (
    <div className="run-progress" role="status">
      <Progress
        value={(100 * written) / Math.max(1, planned)}
        aria-label="Records written"
        size="lg"
        color="ember"
      />
      <span className="small">
        {written.toLocaleString('en')} of {count(planned, 'record')} written; other records are not held up
      </span>
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

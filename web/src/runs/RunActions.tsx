import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useLocation, useNavigate } from 'react-router';
import type { RunDetail } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';
import { takeBackHash } from '../undo/TakeBack';
import { useTakeSample } from './useTakeSample';

/** What can be done with a run: trying it again, and taking it to the bench. */
export function RunActions({ run }: { readonly run: RunDetail }) {
  const mayRetry = useMay('runs.retry');
  const mayTake = useMay('samples.change');
  const mayUndo = useMay('runs.undo');
  const navigate = useNavigate();
  const { search } = useLocation();
  const take = useTakeSample(run);
  const toBench = (sample: string) => `/bench/${sample}`;
  const retry = useMutation({ mutationFn: () => ask(`/runs/${run.id}/retry`, { method: 'POST' }) });
  if (!run.event) return null;
  // Where a newer run has dealt with the record, what is left is looked at first.
  const failed =
    (run.state === 'failed' || run.result === 'partly failed' || run.result === 'dropped') &&
    run.newer === null;
  const again = mayRetry && (failed || (run.state === 'waiting' && run.attempts > 0));
  return (
    <span className="end">
      {(take.isError || retry.isError) && (
        <span className="value wrong">{sentenceOf(take.error ?? retry.error)}</span>
      )}
      {again && (
        <Button variant="default" loading={retry.isPending} onClick={() => retry.mutate()}>
          Try again now
        </Button>
      )}
      {mayUndo && run.outcome.some(({ state }) => state === 'written') && (
        <Button variant="subtle" onClick={() => navigate({ search, hash: takeBackHash }, { replace: true })}>
          Take back…
        </Button>
      )}
      {mayTake && run.report && !run.event.undoes && !run.event.brings && (
        <>
          <Button
            variant="subtle"
            disabled={take.isPending}
            onClick={() => take.mutate({ masked: true, to: toBench })}
          >
            Replay, personal values masked
          </Button>
          <Button loading={take.isPending} onClick={() => take.mutate({ to: toBench })}>
            Replay on the bench
          </Button>
        </>
      )}
    </span>
  );
}

import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import type { RunDetail } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMayChange } from '../frame/useRole';

/** What can be done with a run: trying it again, and taking it to the bench. */
export function RunActions({ run }: { readonly run: RunDetail }) {
  const navigate = useNavigate();
  const mayChange = useMayChange();
  const name = `${run.recordName ?? run.ref?.id ?? 'Event'}: ${run.changed.length > 0 ? run.changed.join(', ') : (run.kind ?? '')}`;
  const take = useMutation({
    mutationFn: (masked: boolean) =>
      ask<{ id: string }>('/samples', {
        method: 'POST',
        body: { run: run.id, name: name.slice(0, 120), ...(masked && { masked }) },
      }),
    onSuccess: ({ id }) => void navigate(`/bench/${id}`),
  });
  const retry = useMutation({ mutationFn: () => ask(`/runs/${run.id}/retry`, { method: 'POST' }) });
  if (!mayChange || !run.event) return null;
  const again = run.state === 'failed' || (run.state === 'waiting' && run.attempts > 0);
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
      {run.report && (
        <>
          <Button variant="subtle" disabled={take.isPending} onClick={() => take.mutate(true)}>
            …with personal values masked
          </Button>
          <Button loading={take.isPending} onClick={() => take.mutate(false)}>
            Replay on the bench
          </Button>
        </>
      )}
    </span>
  );
}

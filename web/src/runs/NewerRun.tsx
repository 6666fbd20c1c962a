import { Button } from '@mantine/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { RunDetail, RunLeft } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { Outcome } from '../bench/Outcome';
import { useMay } from '../frame/useMay';
import { Failure, Loading } from '../parts/states';
import { count, shortTime } from '../parts/time';

/** Of a run that failed, what a newer one has dealt with since, and what is left to do. */
export function NewerRun({ run }: { readonly run: RunDetail }) {
  const mayRetry = useMay('runs.retry');
  const [asked, setAsked] = useState(false);
  const { newer } = run;
  if (!newer || (run.state !== 'failed' && run.result !== 'partly failed')) return null;
  return (
    <section aria-label="A newer run" className="note">
      <p>
        <Link to={`/runs/${newer.id}`}>Run {newer.id}</Link> has dealt with this record since, at{' '}
        {shortTime(newer.finishedAt)}. A new try computes with the record as it is now, so that no older value
        comes back.
      </p>
      {mayRetry && !asked && (
        <Button size="compact-sm" variant="default" onClick={() => setAsked(true)}>
          See what is left to do
        </Button>
      )}
      {asked && <Left run={run} onClose={() => setAsked(false)} />}
    </section>
  );
}

function Left({ run, onClose }: { readonly run: RunDetail; readonly onClose: () => void }) {
  const left = useQuery({
    queryKey: [...keys.run(run.id), 'left'],
    queryFn: () => ask<RunLeft>(`/runs/${run.id}/left`),
    staleTime: 0,
    gcTime: 0,
  });
  const retry = useMutation({
    mutationFn: () => ask(`/runs/${run.id}/retry`, { method: 'POST' }),
    onSuccess: onClose,
  });
  if (left.isPending) return <Loading />;
  if (left.isError) return <Failure error={left.error} again={() => void left.refetch()} />;
  const { writes, messages, problems } = left.data;
  const nothing = writes.length === 0 && messages === 0;
  return (
    <div role="status">
      <p>
        {nothing
          ? 'Nothing is left to do: every record holds what this run would write.'
          : `${count(writes.length, 'record')} would be written${messages > 0 ? `, and ${count(messages, 'message')} sent` : ''}.`}
      </p>
      {problems.map((problem) => (
        <p key={problem} className="value wrong">
          {problem}
        </p>
      ))}
      {writes.length > 0 && (
        <Outcome
          records={writes.map((write) => ({ ...write, plan: 0, state: 'planned' as const, problem: null }))}
        />
      )}
      <Button size="compact-sm" color="ember" loading={retry.isPending} onClick={() => retry.mutate()}>
        {nothing ? 'Try again all the same' : 'Do what is left'}
      </Button>{' '}
      <Button size="compact-sm" variant="subtle" onClick={onClose}>
        Leave it
      </Button>
      {retry.isError && <span className="value wrong"> {sentenceOf(retry.error)}</span>}
    </div>
  );
}

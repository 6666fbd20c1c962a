import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { startedRules, type RunDetail } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';

/** Runs the payload of an earlier run live once more, knowingly: what that means is said before it is done. */
export function RunAgain({ run }: { readonly run: RunDetail }) {
  const mayChange = useMay('runs.retry');
  const [asked, setAsked] = useState(false);
  const again = useMutation({
    mutationFn: () => ask<{ runs: string[] }>(`/runs/${run.id}/again`, { method: 'POST' }),
    onSuccess: () => setAsked(false),
  });
  const started = run.report ? startedRules(run.report) : [];
  if (!mayChange || started.length === 0) return null;
  return (
    <section aria-label="Run it again" className="run-again">
      {!asked && (
        <Button size="compact-sm" variant="default" onClick={() => setAsked(true)}>
          Run this payload again, live
        </Button>
      )}
      {asked && (
        <div className="note">
          {started.map(({ ruleName }) => `“${ruleName}”`).join(', ')} will run for what this payload changed,
          as published now, with what the record holds by then, and write it to the systems, even where
          somebody has changed it there.{' '}
          <Button size="compact-sm" color="ember" loading={again.isPending} onClick={() => again.mutate()}>
            Run and write
          </Button>{' '}
          <Button size="compact-sm" variant="subtle" onClick={() => setAsked(false)}>
            Leave it
          </Button>
        </div>
      )}
      {again.isError && <span className="value wrong">{sentenceOf(again.error)}</span>}
      {again.isSuccess && (
        <span role="status">
          It runs again:{' '}
          {again.data.runs.map((id) => (
            <Link key={id} to={`/runs/${id}`}>
              run {id}{' '}
            </Link>
          ))}
        </span>
      )}
    </section>
  );
}

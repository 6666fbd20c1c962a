import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { parseJson, printJson, startedRules, type RunDetail } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';
import { Loading } from '../parts/states';

// What is typed into is large; it is fetched when somebody edits.
const JsonEditor = lazy(async () => ({ default: (await import('../bench/JsonEditor')).JsonEditor }));

/** What of a payload can be edited: the record, and how it was before. */
function payloadOf({ event }: RunDetail): string {
  return printJson({ record: event?.record, ...(event?.before && { before: event.before }) }, 2);
}

/** Runs the payload of an earlier run live once more, knowingly: what that means is said before it is done. */
export function RunAgain({ run }: { readonly run: RunDetail }) {
  const mayChange = useMay('runs.retry');
  const [asked, setAsked] = useState(false);
  const [text, setText] = useState<string>();
  const again = useMutation({
    mutationFn: () =>
      ask<{ runs: string[] }>(`/runs/${run.id}/again`, {
        method: 'POST',
        ...(text !== undefined && { body: { edited: parseJson(text) } }),
      }),
    onSuccess: () => {
      setAsked(false);
      setText(undefined);
    },
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
          <p className="flush">
            {started.map(({ ruleName }) => `“${ruleName}”`).join(', ')} will run for what this payload
            changed, as published now,{' '}
            {text === undefined
              ? 'with what the record holds by then'
              : 'with the payload as it stands below'}
            , and write it to the systems, even where somebody has changed it there.
          </p>
          {text !== undefined && (
            <Suspense fallback={<Loading />}>
              <JsonEditor
                label="The payload to run"
                value={text}
                placeholder={'{ "record": { … }, "before": { … } }'}
                onChange={setText}
              />
            </Suspense>
          )}
          <Button size="compact-sm" color="ember" loading={again.isPending} onClick={() => again.mutate()}>
            Run and write
          </Button>{' '}
          {text === undefined && (
            <Button size="compact-sm" variant="default" onClick={() => setText(payloadOf(run))}>
              Edit the payload first
            </Button>
          )}{' '}
          <Button
            size="compact-sm"
            variant="subtle"
            onClick={() => {
              setAsked(false);
              setText(undefined);
            }}
          >
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

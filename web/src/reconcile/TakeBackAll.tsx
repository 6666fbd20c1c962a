import { Button, TextInput } from '@mantine/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { JobView, ReconcileView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { isUnfinished, JobBar } from '../parts/JobBar';
import { count } from '../parts/time';
import { useAddress } from '../parts/useAddress';

/** Has everything that a look had written taken back, with a reason; what was changed since stays. */
export function TakeBackAll({ view }: { readonly view: ReconcileView }) {
  const mayUndo = useMay('runs.undo');
  const [params, put] = useAddress();
  const job = params.get('undo');
  const [asks, setAsks] = useState(false);
  const [because, setBecause] = useState('');
  const undo = useMutation({
    mutationFn: () =>
      ask<{ job: string }>(`/reconciles/${view.id}/undo`, { method: 'POST', body: { because } }),
    onSuccess: ({ job: begun }) => {
      setAsks(false);
      put({ undo: begun });
    },
  });
  const going = useQuery({
    queryKey: [...keys.jobs, 'one', job],
    queryFn: () => ask<JobView>(`/jobs/${job ?? ''}`),
    enabled: job !== null,
    refetchInterval: ({ state }) => (isUnfinished(state.data) ? 500 : false),
  });
  if (!mayUndo || view.written === 0) return null;
  const busy = isUnfinished(view.writing ?? undefined) || isUnfinished(going.data);
  return (
    <div className="write-bar" role="group" aria-label="Take back">
      {going.data && (
        <>
          <JobBar job={going.data} what="Runs taken back" changed={() => void going.refetch()} />
          {going.data.state === 'done' && (
            <span className="small">
              {count(going.data.done, 'run')} taken back; what was changed since stays.
            </span>
          )}
        </>
      )}
      {!busy && !asks && going.data?.state !== 'done' && (
        <Button variant="default" onClick={() => setAsks(true)}>
          Take back all {count(view.written, 'written record')}…
        </Button>
      )}
      {asks && (
        <form
          className="note"
          onSubmit={(event) => {
            event.preventDefault();
            undo.mutate();
          }}
        >
          <TextInput
            label="Why it is taken back"
            required
            maxLength={1000}
            value={because}
            onChange={({ currentTarget: { value } }) => setBecause(value)}
          />
          <Button
            type="submit"
            size="xs"
            color="ember"
            disabled={because.trim() === ''}
            loading={undo.isPending}
          >
            Take back now
          </Button>{' '}
          <Button size="xs" variant="default" onClick={() => setAsks(false)}>
            Leave it as it is
          </Button>
        </form>
      )}
      {undo.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(undo.error)}
        </div>
      )}
    </div>
  );
}

import { Button } from '@mantine/core';
import { skipToken, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import type { Sample } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';

/** Says that a sample was removed a while ago, and puts it back on demand. */
export function Removed() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const removed = useQuery<Sample | null>({ queryKey: keys.removedSample, queryFn: skipToken }).data;
  const forget = () => client.setQueryData(keys.removedSample, null);
  const back = useMutation({
    mutationFn: ({ id: _old, ...sample }: Sample) =>
      ask<{ id: string }>('/samples', { method: 'POST', body: sample }),
    onSuccess: ({ id }) => {
      forget();
      void navigate(`/bench/${id}`);
    },
  });
  if (!removed) return null;
  return (
    <div className="note" role="status" aria-label="Removed">
      “{removed.name}” is removed.{' '}
      <Button
        size="compact-sm"
        variant="default"
        loading={back.isPending}
        onClick={() => back.mutate(removed)}
      >
        Put it back
      </Button>{' '}
      <Button size="compact-sm" variant="subtle" onClick={forget}>
        Leave it
      </Button>
      {back.isError && <span className="value wrong"> {sentenceOf(back.error)}</span>}
    </div>
  );
}

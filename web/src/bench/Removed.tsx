import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useLocation, useNavigate } from 'react-router';
import type { Sample } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';

/** Says that a sample was removed a moment ago, and puts it back on demand. */
export function Removed() {
  const navigate = useNavigate();
  const { state } = useLocation() as { readonly state: { readonly removed?: Sample } | null };
  const back = useMutation({
    mutationFn: ({ id: _old, ...sample }: Sample) =>
      ask<{ id: string }>('/samples', { method: 'POST', body: sample }),
    onSuccess: ({ id }) => void navigate(`/bench/${id}`, { replace: true }),
  });
  const removed = state?.removed;
  if (!removed) return null;
  return (
    <div className="note removed" role="status" aria-label="Removed">
      “{removed.name}” is removed.{' '}
      <Button
        size="compact-sm"
        variant="default"
        loading={back.isPending}
        onClick={() => back.mutate(removed)}
      >
        Put it back
      </Button>
      {back.isError && <span className="value wrong"> {sentenceOf(back.error)}</span>}
    </div>
  );
}

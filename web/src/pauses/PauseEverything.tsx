import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { ask, sentenceOf } from '../api/client';
import { usePauses } from '../api/queries';
import { useMay } from '../frame/useMay';

/** Pauses everything at once; the banner on every page lets it go on. */
export function PauseEverything() {
  const pauses = usePauses().data;
  const mayPause = useMay('runs.pause');
  const client = useQueryClient();
  const pause = useMutation({
    mutationFn: () => ask('/pauses/everything', { method: 'POST' }),
    onSettled: () => client.invalidateQueries(),
  });
  if (!mayPause || !pauses || pauses.everything) return null;
  return (
    <>
      <Button variant="default" size="compact-sm" loading={pause.isPending} onClick={() => pause.mutate()}>
        Pause everything
      </Button>
      {pause.isError && <span className="value wrong">{sentenceOf(pause.error)}</span>}
    </>
  );
}

import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import type { SampleChange } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';

/** Masks the personal values of a sample, once it has been said that there is no way back. */
export function MaskSample({ id }: { readonly id: string }) {
  const mask = useMutation({
    mutationFn: () =>
      ask(`/samples/${id}`, { method: 'PATCH', body: { masked: true } satisfies SampleChange }),
  });
  return (
    <section className="note" aria-label="Mask the sample">
      Personal values become others of the same shape, the same value everywhere the same, in the event, its
      records and what is expected. There is no way back.{' '}
      <Button size="compact-sm" color="ember" loading={mask.isPending} onClick={() => mask.mutate()}>
        Mask for good
      </Button>
      {mask.isError && <span className="value wrong"> {sentenceOf(mask.error)}</span>}
    </section>
  );
}

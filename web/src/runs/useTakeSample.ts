import { useMutation } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import type { RunDetail } from '@vast-knot/core';
import { ask } from '../api/client';

interface Taking {
  readonly masked?: true;
  /** Where to go with the sample. */
  readonly to: (sample: string) => string;
}

/** Takes what came in with a run, and the records it met, as a sample. */
export function useTakeSample(run: RunDetail) {
  const navigate = useNavigate();
  const name = `${run.recordName ?? run.ref?.id ?? 'Event'}: ${run.changed.length > 0 ? run.changed.join(', ') : (run.kind ?? '')}`;
  return useMutation({
    mutationFn: async ({ masked, to }: Taking) => {
      const { id } = await ask<{ id: string }>('/samples', {
        method: 'POST',
        body: { run: run.id, name: name.slice(0, 120), ...(masked && { masked }) },
      });
      return to(id);
    },
    onSuccess: (address) => void navigate(address),
  });
}

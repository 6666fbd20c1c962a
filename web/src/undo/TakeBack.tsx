import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { UndoPreview } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys } from '../api/queries';
import { Failure, Loading } from '../parts/states';
import { UndoPreviewed, type HowTaken } from './UndoPreviewed';

/** Stands in the address while taking a run back is looked at. */
export const takeBackHash = '#take-back';

/** What taking back what a run wrote would do, and doing it. */
export function TakeBack({ run, close }: { readonly run: string; readonly close: () => void }) {
  const navigate = useNavigate();
  // However often it is pressed, it is asked for once.
  const [id] = useState(() => crypto.randomUUID());
  const preview = useQuery({
    queryKey: keys.undo(`runs/${run}`),
    queryFn: () => ask<UndoPreview>(`/runs/${run}/undo`),
    gcTime: 0,
  });
  const takeBack = async (because: string, { without, starts }: HowTaken) => {
    const { run: made } = await ask<{ run: string | null }>(`/runs/${run}/undo`, {
      method: 'POST',
      body: { id, because, ...(without.length > 0 && { without }), ...(starts && { starts }) },
    });
    await navigate(`/runs/${made ?? ''}`);
  };
  return (
    <section aria-label="Take back" className="take-back">
      <h2>
        Taking it back{' '}
        <Button size="compact-sm" variant="default" onClick={close}>
          Leave it as it is
        </Button>
      </h2>
      {preview.isPending && <Loading />}
      {preview.isError && <Failure error={preview.error} again={() => void preview.refetch()} />}
      {preview.data && <UndoPreviewed preview={preview.data} takeBack={takeBack} canLeaveOut />}
    </section>
  );
}

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import type { Sample, SampleChange, SampleSaid } from '@vast-knot/core';
import { ApiProblem, ask, sentenceOf } from '../api/client';
import { keys, sampleQuery } from '../api/queries';

/** That somebody else changed the same of a sample: what they made of it, and what was to be saved. */
export interface SampleConflict {
  /** Who changed what, as a sentence. */
  readonly says: string;
  readonly theirs: Sample;
  readonly mine: SampleChange;
}

interface SampleChanging {
  readonly onDone?: () => void;
  /** Shows the change before the server has it. */
  readonly atOnce?: (mine: SampleChange, seen: Sample) => void;
}

/** Changing a sample: what somebody else changed meanwhile is not overwritten, and what was to be saved stays at hand. */
export function useSampleChange({ onDone, atOnce }: SampleChanging = {}) {
  const client = useQueryClient();
  const [conflict, setConflict] = useState<SampleConflict>();
  const { mutate, isPending, error } = useMutation({
    // One after the other: the next begins with what the one before made.
    scope: { id: 'sample' },
    onMutate: ({ mine, seen }) => atOnce?.(mine, seen),
    mutationFn: ({ mine, seen }: { readonly mine: SampleChange; readonly seen: Sample }) =>
      ask(`/samples/${seen.id}`, { method: 'PATCH', body: { ...mine, was: wasOf(mine, seen) } }),
    onSuccess: () => {
      setConflict(undefined);
      onDone?.();
    },
    onError: async (thrown, { mine, seen }) => {
      if (!(thrown instanceof ApiProblem) || thrown.problem.status !== 412) return;
      const theirs = await client.fetchQuery({ ...sampleQuery(seen.id), staleTime: 0 });
      setConflict({ says: thrown.problem.detail, theirs, mine });
    },
    onSettled: () => client.invalidateQueries({ queryKey: keys.samples }),
  });
  const save = useCallback((mine: SampleChange, seen: Sample) => mutate({ mine, seen }), [mutate]);
  return {
    /** Saves; `seen` is the sample as it was when the change was begun. */
    save,
    isPending,
    conflict,
    /** Saves over what somebody else changed, which was shown. */
    saveOver: () => conflict && mutate({ mine: conflict.mine, seen: conflict.theirs }),
    leave: () => setConflict(undefined),
    failure: error && !conflict ? sentenceOf(error) : undefined,
  };
}

function wasOf(mine: SampleChange, { name, note, tags = [], expected }: Sample): SampleSaid {
  return {
    ...(mine.name !== undefined && { name }),
    ...(mine.note !== undefined && { note }),
    ...(mine.tags !== undefined && { tags }),
    ...(mine.expected !== undefined && { expected: expected ?? null }),
  };
}

import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { expectAll, type Expected, type OutcomeOf, type Sample, type SampleChange } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';

/** Saying what is expected of a sample; the bench shows it at once. */
export function useExpected(
  sample: Sample,
  outcome: OutcomeOf | undefined,
): {
  readonly expect: (expected: Expected) => void;
  readonly acceptAll: () => void;
  readonly failure: string | undefined;
} {
  const client = useQueryClient();
  const { mutate, error } = useMutation({
    mutationFn: (expected: Expected) =>
      ask(`/samples/${sample.id}`, { method: 'PATCH', body: { expected } satisfies SampleChange }),
    onMutate: (expected) => {
      client.setQueryData<readonly Sample[]>(keys.wholeSamples, (all) =>
        all?.map((each) => (each.id === sample.id ? { ...each, expected } : each)),
      );
    },
    onSettled: () => client.invalidateQueries({ queryKey: keys.samples }),
  });
  const expect = useCallback((expected: Expected) => mutate(expected), [mutate]);
  return {
    expect,
    acceptAll: () => outcome && expect(expectAll(outcome)),
    failure: error ? sentenceOf(error) : undefined,
  };
}

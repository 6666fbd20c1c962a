import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { expectAll, type Expected, type OutcomeOf, type Sample } from '@vast-knot/core';
import { keys } from '../api/queries';
import { useSampleChange } from './useSampleChange';

/** Saying what is expected of a sample; the bench shows it at once. */
export function useExpected(sample: Sample, outcome: OutcomeOf | undefined) {
  const client = useQueryClient();
  const change = useSampleChange({
    atOnce: ({ expected }, { id }) => {
      if (!expected) return;
      client.setQueryData<readonly Sample[]>(keys.wholeSamples, (all) =>
        all?.map((each) => (each.id === id ? { ...each, expected } : each)),
      );
    },
  });
  const { save } = change;
  const expect = useCallback((expected: Expected) => save({ expected }, sample), [save, sample]);
  return { ...change, expect, acceptAll: () => outcome && expect(expectAll(outcome)) };
}

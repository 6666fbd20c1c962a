import { useMemo } from 'react';
import type { RuleBody, Sample, Suggestion } from '@vast-knot/core';
import type { Known } from '../../work/known';
import { useWork } from '../../work/useWork';

interface Asked {
  readonly body: RuleBody;
  readonly ruleId: string;
  /** The place of the action. */
  readonly at: number;
  readonly samples: readonly Sample[];
}

/** Lines for the fields of an action that have none, computed while they are asked for. */
export function useSuggestions(
  on: boolean,
  { body, ruleId, at, samples }: Asked,
  known: Known,
): readonly Suggestion[] | undefined {
  const input = useMemo(
    () => (on ? { rule: { ...body, id: ruleId, version: 0 }, action: at, samples } : undefined),
    [on, body, ruleId, at, samples],
  );
  return useWork('suggestions', input, known).output;
}

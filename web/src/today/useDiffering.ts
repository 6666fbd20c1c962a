import { useMemo } from 'react';
import type { Rule } from '@vast-knot/core';
import { useKnown, useRules, useWholeSamples } from '../api/queries';
import { useWork } from '../work/useWork';

/** Returns how many samples come to something else than what is expected of them, with the rules that run; undefined until that is known. */
export function useDiffering(): number | undefined {
  const { known } = useKnown();
  const samples = useWholeSamples().data;
  const rules = useRules().data;
  const input = useMemo(() => {
    if (!samples || !rules) return undefined;
    const published = rules.flatMap(({ id, published: runs }): Rule[] =>
      runs ? [{ ...runs.body, id, version: runs.version }] : [],
    );
    return { rules: published, samples };
  }, [samples, rules]);
  const { output } = useWork('replayAll', input, known);
  return output?.filter(({ verdict }) => verdict === 'differs').length;
}

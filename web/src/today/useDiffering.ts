import { useMemo } from 'react';
import { useKnown, useRules, useWholeSamples } from '../api/queries';
import { publishedOf } from '../bench/rulesAgainst';
import { useWork } from '../work/useWork';

/** Returns how many samples come to something else than what is expected of them, with the rules that run; undefined until that is known. */
export function useDiffering(): number | undefined {
  const { known } = useKnown();
  const samples = useWholeSamples().data;
  const rules = useRules().data;
  const input = useMemo(() => {
    if (!samples || !rules) return undefined;
    return { rules: publishedOf(rules), samples };
  }, [samples, rules]);
  const { output } = useWork('replayAll', input, known);
  return output?.filter(({ verdict }) => verdict === 'differs').length;
}

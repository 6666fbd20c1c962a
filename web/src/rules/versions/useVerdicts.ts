import { useMemo } from 'react';
import type { Rule, RuleBody, RuleView, Sample } from '@vast-knot/core';
import { useKnown, useRules, useWholeSamples } from '../../api/queries';
import type { VerdictChange } from '../../bench/replay';
import { publishedOf } from '../../bench/rulesAgainst';
import { useWork } from '../../work/useWork';

/** What is compared: a rule as it says one thing, and as it says another; `one` is absent where it does not run at all. */
interface Compared {
  readonly rule: RuleView;
  readonly one: RuleBody | undefined;
  readonly other: RuleBody;
}

/**
 * Replays the samples that a rule may have a part in, among the rules that run, with the rule as it is in one version and in another.
 * Undefined until it is known. What is given must be the same at each drawing.
 */
export function useVerdicts({ rule, one, other }: Compared): readonly VerdictChange[] | undefined {
  const { known } = useKnown();
  const samples = useWholeSamples().data;
  const rules = useRules().data;
  const input = useMemo(() => {
    if (!samples || !rules) return undefined;
    const running = publishedOf(rules);
    /** The rules that run, one of them with what it says in a version: in its place, or as the last. */
    const among = (body: RuleBody | undefined): readonly Rule[] => {
      const others = running.filter(({ id }) => id !== rule.id);
      if (!body) return others;
      const said: Rule = { ...body, id: rule.id, version: 0 };
      return running.some(({ id }) => id === rule.id)
        ? running.map((each) => (each.id === rule.id ? said : each))
        : [...others, said];
    };
    return {
      now: among(one),
      then: among(other),
      samples: samples.filter((sample) => concerns(sample, other) || (one && concerns(sample, one))),
    };
  }, [samples, rules, one, other, rule.id]);
  return useWork('verdictChanges', input, known).output;
}

/** Returns whether a sample has records that could start the rule, its own or one that others write. */
function concerns({ event, records }: Sample, { trigger }: RuleBody): boolean {
  const starts = ({ system, recordType }: Sample['event']['ref']) =>
    system === trigger.system && recordType === trigger.recordType;
  return starts(event.ref) || records.some(({ ref }) => starts(ref));
}

import type { Sample } from '@vast-knot/core';
import type { SampleResult } from './replay';

/** A row of the list of samples: a sample, or a rule with those that it starts below. */
export type SampleListRow =
  /** A sample, and the rule that it stands under: it may stand under several. */
  | { readonly kind: 'sample'; readonly sample: Sample; readonly under?: string }
  | { readonly kind: 'rule'; readonly id: string; readonly name: string; readonly samples: number };

/** The folder of samples that start no rule. */
const startsNone = 'none';

/**
 * Samples under the rules that they start, in the order of the rules; one that starts several stands under each. Those of folded
 * rules are left out, and so are rules without samples.
 */
export function rowsByRule(
  samples: readonly Sample[],
  results: ReadonlyMap<string, SampleResult>,
  rules: readonly { readonly id: string; readonly name: string }[],
  folded: ReadonlySet<string>,
): readonly SampleListRow[] {
  const under = new Map<string, Sample[]>();
  for (const sample of samples) {
    const starts = results.get(sample.id)?.starts ?? [];
    for (const rule of starts.length > 0 ? starts : [startsNone]) {
      const own = under.get(rule);
      if (own) own.push(sample);
      else under.set(rule, [sample]);
    }
  }
  return [...rules, { id: startsNone, name: 'No rule is started' }].flatMap(({ id, name }) => {
    const own = under.get(id) ?? [];
    if (own.length === 0) return [];
    const head: SampleListRow = { kind: 'rule', id, name, samples: own.length };
    return folded.has(id)
      ? [head]
      : [head, ...own.map((sample): SampleListRow => ({ kind: 'sample', sample, under: id }))];
  });
}

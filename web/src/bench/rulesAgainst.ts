import type { EarlierVersion, Rule, RuleView } from '@vast-knot/core';

/** Which rules take part on the bench; `both` compares what is edited with what is published. */
export type Against = 'drafts' | 'published' | 'both' | 'earlier';

/** Returns what stands in the address for an earlier version. */
export function versionKey({ rule, version }: Pick<EarlierVersion, 'rule' | 'version'>): string {
  return `${rule}@${version}`;
}

/** Returns what the address says; a version that is not there any more stands for the one that runs. */
export function againstIn(params: URLSearchParams, earlier: EarlierVersion | undefined): Against {
  if (earlier) return 'earlier';
  const named = params.get('against');
  return named === 'drafts' || named === 'both' ? named : 'published';
}

/** Returns all rules as they are edited. */
export function draftsOf(rules: readonly RuleView[]): readonly Rule[] {
  return rules.map(({ id, draft }) => ({ ...draft, id, version: 0 }));
}

/** Returns the rules that run, as they were published; one of them may take part as it was earlier. */
export function publishedOf(rules: readonly RuleView[], earlier?: EarlierVersion): readonly Rule[] {
  return rules.flatMap(({ id, published }): Rule[] => {
    if (earlier?.rule === id) return [{ ...earlier.body, id, version: earlier.version }];
    return published ? [{ ...published.body, id, version: published.version }] : [];
  });
}

import { checkRule, compileRule, type Finding, type Rule, type Surroundings } from '@vast-knot/core';
import { withRules } from '../../work/withRules';

/** Returns everything there is to say about a rule as edited, held against the other rules. */
export function findingsOf(
  { rule, others }: { readonly rule: Rule; readonly others: readonly Rule[] },
  known: Surroundings,
): readonly Finding[] {
  const surroundings = withRules(known, [...others, rule]);
  const compiled = others.flatMap((other) => {
    const result = compileRule(other, surroundings);
    const compiledParts = result.ok ? result.compiled : result.compiledParts;
    return compiledParts ? [compiledParts] : [];
  });
  return checkRule(rule, surroundings, compiled);
}

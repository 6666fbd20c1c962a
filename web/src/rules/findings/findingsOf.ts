import { checkRule, compileRule, type Finding, type Rule, type Surroundings } from '@vast-knot/core';
import { withRules } from '../../work/withRules';

/** What the findings of a rule depend on. */
interface Checked {
  readonly rule: Rule;
  /** The other rules as edited: what it may do of theirs. */
  readonly others: readonly Rule[];
  /** Those that run, as they run: what it may come into conflict with. */
  readonly running: readonly Rule[];
}

/** Returns everything there is to say about a rule as edited, held against the other rules. */
export function findingsOf({ rule, others, running }: Checked, known: Surroundings): readonly Finding[] {
  const surroundings = withRules(known, [...others, rule]);
  const compiled = running.flatMap((other) => {
    const result = compileRule(other, surroundings);
    const compiledParts = result.ok ? result.compiled : result.compiledParts;
    return compiledParts ? [compiledParts] : [];
  });
  return checkRule(rule, surroundings, compiled);
}

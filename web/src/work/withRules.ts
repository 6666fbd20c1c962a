import type { Rule, Surroundings } from '@vast-knot/core';

/** Returns the surroundings with the rules whose actions another rule may do. */
export function withRules(surroundings: Surroundings, rules: readonly Rule[]): Surroundings {
  return { ...surroundings, rules: new Map(rules.map((rule) => [rule.id, rule])) };
}

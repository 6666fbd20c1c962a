import type { Finding, Rule, Surroundings } from '@vast-knot/core';
import { findingsOf } from '../rules/findings/findingsOf';

/** What a rule says of itself. */
export interface RuleSays {
  readonly id: string;
  readonly name: string;
  readonly findings: readonly Finding[];
}

/** Returns what the rules that records of a type start say of themselves, with everything as it would be. */
export function findingsOfType(
  {
    system,
    recordType,
    rules,
  }: { readonly system: string; readonly recordType: string; readonly rules: readonly Rule[] },
  known: Surroundings,
): readonly RuleSays[] {
  return rules
    .filter(({ trigger }) => trigger.system === system && trigger.recordType === recordType)
    .map((rule) => ({
      id: rule.id,
      name: rule.name,
      findings: findingsOf({ rule, others: rules.filter((each) => each !== rule), running: [] }, known),
    }));
}

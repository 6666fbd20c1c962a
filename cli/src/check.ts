import { checkRules, rulesIn, surroundingsIn, type WholeBundle } from '@vast-knot/core';
import type { Say } from './say';

/** Prints the findings of the rules of bundles. Returns 1 when one of them is an error. */
export function check(bundle: WholeBundle, say: Say): number {
  const rules = rulesIn(bundle);
  const surroundings = { ...surroundingsIn(bundle), rules: new Map(rules.map((rule) => [rule.id, rule])) };
  let [errors, warnings] = [0, 0];
  for (const { rule, findings } of checkRules(rules, surroundings)) {
    for (const { severity, at, message } of findings) {
      if (severity === 'error') errors++;
      if (severity === 'warning') warnings++;
      say(`${severity.padEnd(7)}  ${rule.name}  ${at}: ${message}`);
    }
  }
  say(`${errors} errors, ${warnings} warnings in ${rules.length} rules`);
  return errors > 0 ? 1 : 0;
}

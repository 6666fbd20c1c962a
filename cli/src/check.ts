import {
  checkRules,
  definitionProblems,
  rowProblems,
  rulesIn,
  surroundingsIn,
  type WholeBundle,
} from '@vast-knot/core';
import type { Say } from './say';

/** Prints what is wrong with the tables of bundles, and the findings of their rules. Returns 1 when one of them is an error. */
export function check(bundle: WholeBundle, say: Say): number {
  const rules = rulesIn(bundle);
  const surroundings = { ...surroundingsIn(bundle), rules: new Map(rules.map((rule) => [rule.id, rule])) };
  let [errors, warnings] = [0, 0];
  for (const table of bundle.tables) {
    for (const { message } of [...definitionProblems(table), ...rowProblems(table, table.rows)]) {
      errors++;
      say(`${'error'.padEnd(7)}  ${table.name}: ${message}`);
    }
  }
  for (const { rule, findings } of checkRules(rules, surroundings)) {
    for (const { severity, at, message } of findings) {
      if (severity === 'error') errors++;
      if (severity === 'warning') warnings++;
      say(`${severity.padEnd(7)}  ${rule.name}  ${at}: ${message}`);
    }
  }
  const found = `${counted(errors, 'error')}, ${counted(warnings, 'warning')}`;
  say(`${found} in ${counted(rules.length, 'rule')} and ${counted(bundle.tables.length, 'table')}`);
  return errors > 0 ? 1 : 0;
}

const counted = (number: number, what: string): string => `${number} ${what}${number === 1 ? '' : 's'}`;

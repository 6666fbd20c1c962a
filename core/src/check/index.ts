import type { CompiledRule } from '../engine/compiled';
import { compileRule } from '../engine/compileRule';
import type { Surroundings } from '../engine/surroundings';
import type { Rule } from '../engine/rule';
import { clearsRequired } from './clearsRequired';
import { comparedChoice } from './comparedChoice';
import type { Check, Finding, Severity, Subject } from './finding';
import { guardNeverHolds } from './guardNeverHolds';
import { misfitType } from './misfitType';
import { missingRequired } from './missingRequired';
import { mistake } from './mistake';
import { optionWithoutRow } from './optionWithoutRow';
import { outOfRange } from './outOfRange';
import { readOnlyTarget } from './readOnlyTarget';
import { removedRecord } from './removedRecord';
import { rivalRule } from './rivalRule';
import { sensitiveOutside } from './sensitiveOutside';
import { tooLong } from './tooLong';
import { twoLines } from './twoLines';
import { unknownChoice } from './unknownChoice';
import { unresolvedReference } from './unresolvedReference';
import { unusedFind } from './unusedFind';
import { unwatchedField } from './unwatchedField';
import { watchedUnused } from './watchedUnused';
import { writesNothing } from './writesNothing';

/** Every kind of finding, the graver ones first. To add one, write its file and its line here. */
export const checks: readonly Check[] = [
  mistake,
  readOnlyTarget,
  twoLines,
  removedRecord,
  missingRequired,
  writesNothing,
  guardNeverHolds,
  misfitType,
  comparedChoice,
  unknownChoice,
  tooLong,
  outOfRange,
  clearsRequired,
  unresolvedReference,
  optionWithoutRow,
  unwatchedField,
  sensitiveOutside,
  rivalRule,
  watchedUnused,
  unusedFind,
];

const severityOrder: Readonly<Record<Severity, number>> = { error: 0, warning: 1, note: 2 };

/** Returns everything there is to say about a rule before it runs, errors first. */
export function checkRule(
  rule: Rule,
  surroundings: Surroundings,
  others: readonly CompiledRule[],
): readonly Finding[] {
  const result = compileRule(rule, surroundings);
  const subject: Subject = {
    rule,
    problems: result.ok ? [] : result.problems,
    compiledParts: result.ok ? result.compiled : result.compiledParts,
    surroundings,
    others: others.filter((other) => other.rule.id !== rule.id),
  };
  return checks
    .flatMap((check) => check.find(subject).map((finding): Finding => ({ kind: check.kind, ...finding })))
    .sort((a, b) => severityOrder[a.severity] - severityOrder[b.severity]);
}

/** Returns the findings of a whole set of rules, each held against all others. */
export function checkRules(
  rules: readonly Rule[],
  surroundings: Surroundings,
): readonly { readonly rule: Rule; readonly findings: readonly Finding[] }[] {
  const compiled = rules.flatMap((rule) => {
    const result = compileRule(rule, surroundings);
    const compiledParts = result.ok ? result.compiled : result.compiledParts;
    return compiledParts ? [compiledParts] : [];
  });
  return rules.map((rule) => ({ rule, findings: checkRule(rule, surroundings, compiled) }));
}

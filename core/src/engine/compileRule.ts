import { FormulaError } from '../formula/error';
import { triggerKind } from '../model/triggers';
import type { Rule } from './rule';
import { fieldAt } from '../model/system';
import { compileAction } from './compileAction';
import { compileFind } from './compileFind';
import type { CompiledAction, CompiledFind, CompiledRule } from './compiled';
import { beginCompiling, type Compiling, type RuleProblem } from './compiling';
import type { Surroundings } from './surroundings';

export type RuleCompilation =
  | { readonly ok: true; readonly compiled: CompiledRule }
  | {
      readonly ok: false;
      readonly problems: readonly RuleProblem[];
      /** What has no mistake, for checks that look further; undefined without a record type to start from. */
      readonly compiledParts?: CompiledRule;
    };

/** Compiles every formula of a rule, or reports every mistake in it. */
export function compileRule(
  rule: Rule,
  surroundings: Surroundings,
  appliedBy: readonly Rule[] = [],
): RuleCompilation {
  const problems: RuleProblem[] = [];
  const compiling = beginCompiling(rule, surroundings, problems);
  const { system, recordType: typeName, watched, turns = [] } = rule.trigger;
  const recordType = surroundings.catalog.recordType(system, typeName);
  if (!recordType) {
    compiling.note('trigger', `There is no record type “${typeName}” in the system “${system}”.`);
    return { ok: false, problems };
  }
  const unknown = (path: string) => !fieldAt(recordType.fields, path);
  watched.forEach((path, at) => {
    if (unknown(path)) compiling.note(`trigger/watched/${at}`, `${recordType.label} has no field “${path}”.`);
  });
  turns.forEach(({ field }, at) => {
    if (unknown(field)) compiling.note(`trigger/turns/${at}`, `${recordType.label} has no field “${field}”.`);
  });
  checkTrigger(compiling);

  const guard = compiling.conditionAt('guard', rule.guard, 'A guard');
  const finds = rule.finds
    .map((_find, at) => compileFind(compiling, at))
    .filter((find): find is CompiledFind => find !== undefined);
  const actions = rule.actions
    .map((_action, at) => compileAction(compiling, at, (id) => applied(id, rule, surroundings, appliedBy)))
    .filter((action): action is CompiledAction => action !== undefined);
  const { formulas } = compiling;
  const compiled: CompiledRule = { rule, recordType, guard, finds, actions, formulas };
  return problems.length > 0 ? { ok: false, problems, compiledParts: compiled } : { ok: true, compiled };
}

function checkTrigger({ rule: { trigger }, note }: Compiling): void {
  const kinds = trigger.kinds.map(triggerKind);
  for (const { problems } of kinds) {
    for (const { member, message } of problems?.(trigger) ?? []) note(`trigger/${member}`, message);
  }
  if (trigger.wait !== undefined && !kinds.some(({ members }) => members.includes('wait')))
    note('trigger/wait', 'Only a rule that starts when a record is updated can wait for further changes.');
}

/** Returns the rule that an action applies, compiled; or why it cannot be. */
function applied(
  id: string,
  by: Rule,
  surroundings: Surroundings,
  appliedBy: readonly Rule[],
): CompiledRule | string {
  const chain = [...appliedBy, by];
  const other = surroundings.rules?.get(id);
  if (!other) return 'The rule whose actions are to be done is not there.';
  if (chain.some((rule) => rule.id === id)) {
    return `${chain.map(({ name }) => `“${name}”`).join(' does what ')} does what “${other.name}” does: a circle.`;
  }
  const compiled = compileRule(other, surroundings, chain);
  if (compiled.ok) return compiled.compiled;
  const [first] = compiled.problems;
  return `“${other.name}” has a mistake: ${(first?.error ?? new FormulaError('name', 'it cannot be read.')).message}`;
}

import { triggerKind } from '../model/triggers';
import type { Rule } from './rule';
import { fieldAt, fieldWithin } from '../model/system';
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

/** The most rules that one rule may do in all, those that they do counted with them, each time that it is done. */
const mostApplied = 100;

/** Where a rule stands that is compiled because another one applies it. */
interface Nesting {
  /** The rules that apply it, the outermost first. */
  readonly chain: readonly Rule[];
  /** What came of the applied rules so far; each is compiled once, however often it is applied. */
  readonly known: Map<string, CompiledRule | string>;
}

/** Compiles every formula of a rule, or reports every mistake in it. */
export function compileRule(rule: Rule, surroundings: Surroundings): RuleCompilation {
  return compileNested(rule, surroundings, { chain: [rule], known: new Map() });
}

function compileNested(rule: Rule, surroundings: Surroundings, nesting: Nesting): RuleCompilation {
  const problems: RuleProblem[] = [];
  const compiling = beginCompiling(rule, surroundings, problems);
  const { system, recordType: typeName, watched, turns = [] } = rule.trigger;
  const recordType = surroundings.catalog.recordType(system, typeName);
  if (!recordType) {
    compiling.note('trigger', `There is no record type “${typeName}” in the system “${system}”.`);
    return { ok: false, problems };
  }
  const unknown = (path: string) => !fieldWithin(recordType.fields, path);
  watched.forEach((path, at) => {
    if (unknown(path)) compiling.note(`trigger/watched/${at}`, `${recordType.label} has no field “${path}”.`);
  });
  turns.forEach(({ field }, at) => {
    if (unknown(field)) compiling.note(`trigger/turns/${at}`, `${recordType.label} has no field “${field}”.`);
    else if (!fieldAt(recordType.fields, field))
      compiling.note(
        `trigger/turns/${at}`,
        `“${field}” lies within a list, so that it has no one value to turn from or to.`,
      );
  });
  checkTrigger(compiling);

  const guard = compiling.conditionAt('guard', rule.guard, 'A guard');
  const finds = rule.finds
    .map((_find, at) => compileFind(compiling, at))
    .filter((find): find is CompiledFind => find !== undefined);
  let applies = 0;
  const apply = (id: string) => {
    const other = applied(id, surroundings, nesting);
    if (typeof other === 'string') return other;
    applies += 1 + other.applies;
    return applies > mostApplied
      ? `“${rule.name}” would do what ${applies} rules do, one within the other; at most ${mostApplied} are done.`
      : other;
  };
  const actions = rule.actions
    .map((_action, at) => compileAction(compiling, at, apply))
    .filter((action): action is CompiledAction => action !== undefined);
  const { formulas } = compiling;
  const compiled: CompiledRule = { rule, recordType, guard, finds, actions, formulas, applies };
  return problems.length > 0 ? { ok: false, problems, compiledParts: compiled } : { ok: true, compiled };
}

function checkTrigger({ rule: { trigger }, note }: Compiling): void {
  const kinds = trigger.kinds.map(triggerKind);
  for (const { problems } of kinds) {
    for (const { member, message } of problems?.(trigger) ?? []) note(`trigger/${member}`, message);
  }
  if (trigger.wait !== undefined && !kinds.some(({ members }) => members.includes('wait')))
    note('trigger/wait', 'Only a rule that starts when a record is updated can wait for further changes.');
  if (trigger.once && !kinds.every(({ members }) => members.includes('once')))
    note(
      'trigger/once',
      'Only a rule that starts by the clock, or when a person asks for it, can be done once for all records.',
    );
}

/** Returns the rule that an action applies, compiled; or why it cannot be. */
function applied(id: string, surroundings: Surroundings, { chain, known }: Nesting): CompiledRule | string {
  const kept = known.get(id);
  if (kept !== undefined) return kept;
  const other = surroundings.rules?.get(id);
  if (!other) return 'The rule whose actions are to be done is not there.';
  if (chain.some((rule) => rule.id === id)) {
    return `${chain.map(({ name }) => `“${name}”`).join(' does what ')} does what “${other.name}” does: a circle.`;
  }
  const compilation = compileNested(other, surroundings, { chain: [...chain, other], known });
  const result = compilation.ok ? compilation.compiled : mistakeOf(other, compilation.problems, known);
  known.set(id, result);
  return result;
}

/** Returns what is wrong with an applied rule; where that is the mistake of a rule that it applies in turn, it is told as it is. */
function mistakeOf(
  { name }: Rule,
  [first]: readonly RuleProblem[],
  known: ReadonlyMap<string, CompiledRule | string>,
): string {
  const message = first?.error.message ?? 'it cannot be read.';
  return [...known.values()].includes(message) ? message : `“${name}” has a mistake: ${message}`;
}

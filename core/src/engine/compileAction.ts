import { kindOf, targetName, type Action } from './actions';
import type { OwnPart } from './actions/kind';
import type { AnyCompiled, CompiledAction, CompiledRule } from './compiled';
import type { Compiling } from './compiling';
import { recordNamed, targetOf } from './targetOf';

/** Compiles the rule that an action applies; returns the sentence that says why it cannot. */
type CompileApplied = (ruleId: string) => CompiledRule | string;

/** Compiles the action at a place. Notes what is wrong; returns undefined when the action cannot run at all. */
export function compileAction(
  compiling: Compiling,
  at: number,
  compileApplied: CompileApplied,
): CompiledAction | undefined {
  const action = compiling.rule.actions[at];
  return action && compileOne(action, compiling, at, compileApplied);
}

function compileOne<A extends Action>(
  action: A,
  compiling: Compiling,
  at: number,
  applied: CompileApplied,
): CompiledAction | undefined {
  const { rule, surroundings, note, conditionAt } = compiling;
  const place = `actions/${at}`;
  const target = targetOf(rule, action, surroundings.catalog);
  if (!target) {
    note(`${place}/target`, nowhere(action));
    return undefined;
  }
  const { is } = kindOf(action).target(action);
  if (rule.trigger.once && is === 'named' && targetName(action) === 'record')
    note(
      `${place}/target`,
      'A rule that is done once for all starts from no record: choose one that it finds.',
    );
  const only = conditionAt(`${place}/only`, action.only, 'The condition of an action');
  const named = (name: string) => recordNamed(rule, action, name, surroundings.catalog);
  const own: OwnPart<A, AnyCompiled<A>> | undefined = kindOf(action).compile(action, {
    compiling,
    place,
    target,
    named,
    applied,
  });
  if (!own) return undefined;
  const compiled = {
    kind: action.kind,
    action,
    at,
    target: targetName(action),
    system: target.system,
    recordType: target.type,
    lines: [],
    ...(only && { only }),
    ...own,
  };
  // Its kind has given what is its own.
  return compiled as unknown as CompiledAction;
}

function nowhere(action: Action): string {
  const target = kindOf(action).target(action);
  return target.is === 'new'
    ? `There is no record type “${target.recordType}” in the system “${target.system}”.`
    : `Nothing is found under the name “${targetName(action)}”.`;
}

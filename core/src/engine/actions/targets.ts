import { FormulaError } from '../../formula/error';
import type { Env } from '../../formula/scope';
import type { JsonObject } from '../../model/json';
import { refKey, type StoredRecord } from '../../model/record';
import type { Branch } from '../branch';
import type { CompiledAction } from '../compiled';
import { withLinked } from '../follow';
import { explainForReport } from '../reported';
import { noteProblem, noteStep, type RuleContext } from '../ruleContext';

/** A record that an action is done to, with what its formulas see. */
export interface Target {
  readonly branch: Branch;
  readonly target: StoredRecord;
  readonly env: Env;
}

/**
 * Returns the records that an action is done to: one for each branch, but for those that are gone or that its condition passes over.
 * `before` holds those that are to be seen as they were, whatever was written since.
 */
export async function targetsOf(
  action: CompiledAction,
  branches: readonly Branch[],
  context: RuleContext,
  before: ReadonlyMap<string, StoredRecord> = new Map(),
): Promise<readonly Target[]> {
  const targets: Target[] = [];
  for (const branch of branches) {
    const ref = action.target === 'record' ? branch.self : branch.found[action.target]?.ref;
    const target = ref && (before.get(refKey(ref)) ?? (await context.workspace.get(ref)));
    if (target) targets.push({ branch, target, env: withTarget(branch.env, target.record) });
    else if (action.target === 'record') {
      const message = 'The triggering record is not there any more.';
      context.steps.push({ kind: 'problem', message, ref: branch.self });
    }
  }
  return passing(action, targets, context);
}

/** Returns the triggering record of each branch, for actions that only tell of it; but for those that the condition passes over. */
export function triggering(
  action: CompiledAction,
  branches: readonly Branch[],
  context: RuleContext,
): Promise<readonly Target[]> {
  const about = branches.map((branch) => ({
    branch,
    target: { ref: branch.self, record: branch.env.record },
    env: branch.env,
  }));
  return passing(action, about, context);
}

/** Returns those for which the condition of the action holds. One that cannot be computed is an error, and not a “no”. */
export async function passing<T extends Target>(
  action: CompiledAction,
  targets: readonly T[],
  context: RuleContext,
): Promise<readonly T[]> {
  const { only } = action;
  if (!only) return targets;
  const envs = await withLinked(
    [only],
    targets.map(({ env }) => env),
    context.workspace,
  );
  return targets.filter(({ target, env: bare }, at) => {
    const env = envs[at] ?? bare;
    const value = only.run(env);
    if (value === true) return true;
    if (value instanceof FormulaError) {
      noteProblem(`The condition of action ${action.at + 1} failed: ${value.message}`, context, target.ref);
      return false;
    }
    noteStep(context, {
      kind: 'passed over',
      action: action.at,
      ref: target.ref,
      explained: explainForReport(only, env),
    });
    return false;
  });
}

function withTarget(env: Env, target: JsonObject): Env {
  return { ...env, target };
}

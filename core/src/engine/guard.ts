import { isBlank } from '../formula/compare';
import type { Formula } from '../formula/compile';
import { FormulaError } from '../formula/error';
import type { Env } from '../formula/scope';
import type { Workspace } from '../workspace/workspace';
import type { CompiledRule } from './compiled';
import { withLinked } from './follow';
import type { RuleVerdict, Step } from './report';
import { explainForReport } from './reported';

/** Why a guard does not let an event through; undefined when it does. */
export interface Held {
  readonly verdict: RuleVerdict;
  readonly because: string;
}

/** Returns whether the guard of a rule lets an event through: each time it holds, or only when it did not hold before. */
export async function passesGuard(
  { guard, rule }: CompiledRule,
  env: Env,
  workspace: Workspace,
  steps: Step[],
): Promise<Held | undefined> {
  if (!guard) return undefined;
  const [now = env] = await withLinked([guard], [env], workspace);
  const value = guard.run(now);
  if (value instanceof FormulaError) {
    return { verdict: 'failed', because: `The guard failed: ${value.message}` };
  }
  const holds = value === true;
  const before = rule.becomesTrue ? await heldBefore(guard, env, workspace) : undefined;
  steps.push({ ...guardStep(guard, now, holds), ...(before && { before }) });
  if (!holds) {
    const blank = isBlank(value) ? ' (it is blank)' : '';
    return { verdict: 'guard', because: `The guard does not hold${blank}: ${guard.source}` };
  }
  if (before?.holds) {
    return { verdict: 'guard', because: `The guard holds, and did before: ${guard.source}` };
  }
  return undefined;
}

/** Returns how a guard is told of in a report. */
export function guardStep(guard: Formula, env: Env, holds: boolean): GuardStep {
  return { kind: 'guard', formula: guard.source, holds, explained: explainForReport(guard, env) };
}

type GuardStep = Extract<Step, { kind: 'guard' }>;

/** Returns the guard on the record before the change; undefined where that is not known, as for a record that was created. */
async function heldBefore(
  guard: NonNullable<CompiledRule['guard']>,
  env: Env,
  workspace: Workspace,
): Promise<GuardStep['before']> {
  const bare = environmentBefore(env);
  if (!bare) return undefined;
  const [before = bare] = await withLinked([guard], [bare], workspace);
  return { holds: guard.run(before) === true, explained: explainForReport(guard, before) };
}

/** Returns what the formulas of a guard saw before the change: the record as it was, with nothing changed. */
export function environmentBefore(env: Env): Env | undefined {
  return env.before ? { ...env, record: env.before, changed: new Set() } : undefined;
}

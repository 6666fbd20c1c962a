import { useEffect, useState } from 'react';
import {
  compile,
  environment,
  environmentBefore,
  FormulaError,
  fromConditions,
  withLinked,
  type Condition,
  type Env,
  type Sample,
  type Scope,
  type Workspace,
} from '@vast-knot/core';

/** What a condition says of the record now, and said of it before the change where that is known. */
export interface ConditionVerdict {
  readonly now: boolean | 'error';
  readonly before?: boolean | 'error';
}

export type Verdicts = ReadonlyMap<string, ConditionVerdict>;
const none: Verdicts = new Map();

/** A guard and what it is tried on. */
interface Judged {
  readonly tree: Condition | undefined;
  readonly guard: string;
  readonly scope: Scope | undefined;
  readonly sample: Sample | undefined;
  readonly workspace: Workspace | undefined;
}

/** The verdict of every part of a guard for the present sample, by its place: `` for the whole, `0/1` for a part of a part. */
export function useVerdicts({ tree, guard, scope, sample, workspace }: Judged): Verdicts {
  const [verdicts, setVerdicts] = useState(none);
  useEffect(() => {
    let left = false;
    const compute = async () => {
      if (!scope || !sample || !workspace || guard.trim() === '') return none;
      const now = environment(sample.event);
      const before = environmentBefore(now);
      const parts = [['', guard] as const, ...(tree ? partsOf(tree) : [])];
      const found = new Map<string, ConditionVerdict>();
      for (const [place, formula] of parts) {
        const verdict = await judge(formula, scope, now, workspace);
        if (verdict === undefined) continue;
        const earlier = before && (await judge(formula, scope, before, workspace));
        found.set(place, { now: verdict, ...(earlier !== undefined && { before: earlier }) });
      }
      return found;
    };
    void compute().then((found) => {
      if (!left) setVerdicts(found);
    });
    return () => {
      left = true;
    };
  }, [tree, guard, scope, sample, workspace]);
  return verdicts;
}

/** Returns the parts of a tree with their places and formulas. */
function partsOf(tree: Condition, place = ''): readonly (readonly [string, string])[] {
  if (tree.kind !== 'group') return [];
  return tree.parts.flatMap((part, at) => {
    const own = place === '' ? String(at) : `${place}/${at}`;
    return [[own, fromConditions(part)] as const, ...partsOf(part, own)];
  });
}

async function judge(
  formula: string,
  scope: Scope,
  env: Env,
  workspace: Workspace,
): Promise<boolean | 'error' | undefined> {
  const compiled = compile(formula, scope);
  if (!compiled.ok) return undefined;
  const [ready = env] = await withLinked([compiled.formula], [env], workspace);
  const value = compiled.formula.run(ready);
  return value instanceof FormulaError ? 'error' : value === true;
}

/** Returns a verdict in words. */
export function verdictWord(value: ConditionVerdict['now']): string {
  if (value === 'error') return 'an error';
  return value ? 'holds' : 'does not hold';
}

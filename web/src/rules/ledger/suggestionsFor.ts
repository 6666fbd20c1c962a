import {
  compileRule,
  linesIn,
  MemoryWorkspace,
  reachTargets,
  scopeAt,
  suggestLines,
  targetName,
  type Evidence,
  type Rule,
  type Sample,
  type Suggestion,
  type Surroundings,
} from '@vast-knot/core';

/** Most records whose values are compared. */
const mostEvidence = 60;

/** Lines for the target fields of an action that have none, with the values of samples as evidence. */
export async function suggestionsFor(
  input: { readonly rule: Rule; readonly action: number; readonly samples: readonly Sample[] },
  surroundings: Surroundings,
): Promise<readonly Suggestion[]> {
  const { rule, action, samples } = input;
  const scope = scopeAt(rule, `actions/${action}`, surroundings);
  if (!scope) return [];
  const result = compileRule(rule, surroundings);
  const compiledParts = result.ok ? result.compiled : result.compiledParts;
  const evidence: Evidence[] = [];
  for (const sample of compiledParts ? samples : []) {
    if (!compiledParts || evidence.length >= mostEvidence) break;
    const workspace = new MemoryWorkspace(surroundings.catalog, sample.records);
    const { targets } = await reachTargets(compiledParts, sample.event, workspace, surroundings.catalog);
    for (const { env, target } of targets.get(action) ?? []) {
      // The target holds what followed from the record as it was before the change.
      const record = env.before ?? env.record;
      evidence.push({ env: { ...env, record }, target: target.record });
    }
  }
  // What the target holds is not made from what it holds.
  const found = new Map(scope.found);
  const here = rule.actions[action];
  if (here) found.delete(targetName(here));
  const mapped = new Set(linesIn(rule.actions[action]).map(({ field }) => field));
  return suggestLines({ ...scope, found }, mapped, evidence.slice(0, mostEvidence));
}

import type { Branch } from '../branch';
import type { CompiledRemove } from '../compiled';
import { noteStep, type UnderWay } from '../ruleRun';
import { targetsOf } from './targets';

/** Removes a record of every branch from its system. */
export async function runRemove(
  action: CompiledRemove,
  branches: readonly Branch[],
  way: UnderWay,
): Promise<readonly Branch[]> {
  for (const { target } of await targetsOf(action, branches, way)) {
    way.tally.reached++;
    const { ref, record } = target;
    const [result] = await way.workspace.apply([{ change: { kind: 'remove', ref, record } }]);
    if (result?.ok) {
      noteStep(way, { kind: 'remove', action: action.at, ref });
      way.written.push({ ...target, created: false });
    } else if (result) way.steps.push({ kind: 'problem', message: result.problem.message, ref });
  }
  return branches;
}

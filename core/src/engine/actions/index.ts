import type { Branch } from '../branch';
import type { CompiledAction } from '../compiled';
import type { UnderWay } from '../ruleRun';
import { runApply } from './apply';
import { runCreate } from './create';
import { runRemove } from './remove';
import { runSend } from './send';
import { runTidy } from './tidy';
import { runWrite } from './write';

/** Does the actions of a rule in their order, each for all branches; gives the branches with what was created. */
export async function runActions(
  actions: readonly CompiledAction[],
  start: readonly Branch[],
  way: UnderWay,
): Promise<readonly Branch[]> {
  let branches = start;
  for (const action of actions) branches = await runAction(action, branches, way);
  return branches;
}

function runAction(
  action: CompiledAction,
  branches: readonly Branch[],
  way: UnderWay,
): Promise<readonly Branch[]> {
  switch (action.kind) {
    case 'write':
      return runWrite(action, branches, way);
    case 'create':
    case 'copy':
      return runCreate(action, branches, way);
    case 'remove':
      return runRemove(action, branches, way);
    case 'send':
      return runSend(action, branches, way);
    case 'tidy':
      return runTidy(action, branches, way);
    case 'apply':
      return runApply(action, branches, way);
  }
}

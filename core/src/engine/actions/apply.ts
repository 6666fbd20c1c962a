import { startBranch, type Branch } from '../branch';
import type { CompiledApply } from '../compiled';
import { rememberPair } from '../counterparts';
import { reach } from '../reach';
import type { Step } from '../report';
import { noteError, type UnderWay } from '../ruleRun';
import { targetsOf } from './targets';

/** Does what another rule does, with the records reached as those that it starts from. */
export async function runApply(
  action: CompiledApply,
  branches: readonly Branch[],
  way: UnderWay,
): Promise<readonly Branch[]> {
  const { rule } = action;
  const steps: Step[] = [];
  const targets = await targetsOf(action, branches, way);
  const start = targets.map(({ target: { ref, record }, env }) =>
    // The other rule is not started by a change: it sees the record as it is, and nothing of this rule's finds.
    startBranch(ref, {
      ...env,
      record,
      before: record,
      changed: new Set(),
      target: null,
      found: {},
      item: null,
    }),
  );
  way.steps.push({
    kind: 'applied',
    action: action.at,
    ruleName: rule.rule.name,
    records: start.length,
    steps,
  });
  const reached = await reach(rule, start, way.workspace, steps);
  if ('branches' in reached) {
    for (const { of, is } of reached.matched) await rememberPair(of, is, way);
    await way.perform(rule.actions, reached.branches, { ...way, steps, observe: undefined });
  } else if (reached.verdict === 'failed') {
    noteError(way.tally, `${rule.rule.name}: ${reached.because}`);
    way.steps.push({ kind: 'problem', message: reached.because });
  }
  return branches;
}

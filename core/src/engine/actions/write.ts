import { lostLines, type Branch } from '../branch';
import type { CompiledWrite } from '../compiled';
import { withLinked } from '../follow';
import { runLines, SharedValues } from '../lines';
import { refKey, type StoredRecord } from '../../model/record';
import type { LineReport } from '../report';
import { resolveKeys } from '../resolveKeys';
import { noteError, noteStep, type UnderWay } from '../ruleRun';
import { createRecords } from './create';
import { targetsOf } from './targets';

/** Branches whose records are held ready at the same time. */
const branchesAtOnce = 500;

/** Writes the lines to a record of every branch; where its find found none and is to create it, creates it. */
export async function runWrite(
  action: CompiledWrite,
  branches: readonly Branch[],
  way: UnderWay,
): Promise<readonly Branch[]> {
  const isNew = (branch: Branch) => branch.toCreate[action.target] !== undefined;
  const fresh = branches.filter(isNew);
  await writeExisting(
    action,
    branches.filter((branch) => !isNew(branch)),
    way,
  );
  if (fresh.length === 0) return branches;
  const made = await createRecords(action, action.target, fresh, way);
  return branches.map((branch) => made[fresh.indexOf(branch)] ?? branch);
}

async function writeExisting(
  action: CompiledWrite,
  branches: readonly Branch[],
  way: UnderWay,
): Promise<void> {
  // Every branch sees its target as it was before this action, also where another branch has written to it.
  const before = new Map<string, StoredRecord>();
  for (let at = 0; at < branches.length; at += branchesAtOnce) {
    await writePart(action, branches.slice(at, at + branchesAtOnce), before, way);
  }
}

async function writePart(
  action: CompiledWrite,
  branches: readonly Branch[],
  before: Map<string, StoredRecord>,
  way: UnderWay,
): Promise<void> {
  const { workspace, tally } = way;
  const targets = await targetsOf(action, branches, way, before);
  const envs = await withLinked(
    action.lines.map(({ compiled }) => compiled),
    targets.map(({ env }) => env),
    workspace,
  );
  way.observe?.(
    action,
    targets.map(({ target, env }, at) => ({ target, env: envs[at] ?? env })),
  );
  const resolve = await resolveKeys(action.lines, envs, workspace);
  const shared = new SharedValues();
  for (const [at, { target, env, branch }] of targets.entries()) {
    tally.reached++;
    const missing = lostLines(action.lines, branch.lost);
    const lines = action.lines.filter((line) => !missing.some(({ field }) => field === line.field));
    const { reports: computed, edits } = runLines(lines, target.record, envs[at] ?? env, resolve, shared);
    const reports = [...computed, ...missing];
    noteStep(way, { kind: 'write', action: action.at, ref: target.ref, lines: reports });
    noteLineErrors(reports, `${target.ref.recordType} ${target.ref.id}`, way);
    if (edits.length === 0) continue;
    const [result] = await workspace.apply([{ change: { kind: 'edit', ref: target.ref, edits } }]);
    if (result?.ok) {
      before.set(refKey(target.ref), target);
      way.written.push({ ...target, created: false });
    } else if (result) way.steps.push({ kind: 'problem', message: result.problem.message, ref: target.ref });
  }
}

export function noteLineErrors(reports: readonly LineReport[], record: string, { tally }: UnderWay): void {
  for (const line of reports) {
    if (line.verdict === 'error') noteError(tally, `${line.field} of ${record}: ${line.because ?? ''}`);
  }
}

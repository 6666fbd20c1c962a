import { FormulaError } from '../formula/error';
import type { Env } from '../formula/scope';
import { isBlank } from '../formula/compare';
import type { ChangeEvent } from '../model/event';
import type { JsonObject } from '../model/json';
import type { StoredRecord } from '../model/record';
import type { Workspace } from '../workspace/workspace';
import type { CompiledRule, CompiledWrite } from './compileRule';
import { runFind } from './find';
import type { RuleReport, RuleVerdict, Step } from './report';
import { explainForReport } from './reported';
import { select } from './select';
import { withLinked } from './follow';
import { resolveKeys } from './resolveKeys';
import { runCreate } from './create';
import { extend, lostLines, noteError, type Branch, type Tally } from './branch';
import { runLines } from './write';

export interface RuleOutcome {
  readonly report: RuleReport;
  readonly written: readonly Written[];
}

/** A record that was written or created, as it was before: nothing, where it was created. */
export interface Written extends StoredRecord {
  readonly created: boolean;
}

/** What a run of a rule needs beyond the rule and its event. */
export interface RuleRun {
  readonly workspace: Workspace;
  /** How many writes lead from the event that came in to this one. */
  readonly depth: number;
  /** An id for a record that is to be created, until its system gives it one. */
  readonly freshId: () => string;
  readonly observe?: Observe | undefined;
}

/** Told of an action what its lines see for each record that it writes to. */
export type Observe = (
  action: CompiledWrite,
  targets: readonly { readonly env: Env; readonly target: StoredRecord }[],
) => void;

/** Write steps kept in full in a report; further ones are counted. */
const writesInFull = 200;

/** Takes one event through one rule: trigger, guard, finds, writes into the workspace. */
export async function runRule(
  compiled: CompiledRule,
  event: ChangeEvent,
  env: Env,
  run: RuleRun,
): Promise<RuleOutcome> {
  const { workspace, depth } = run;
  const { rule, recordType, guard } = compiled;
  const steps: Step[] = [];
  const end = (verdict: RuleVerdict, because: string, written: readonly Written[] = []): RuleOutcome => ({
    report: {
      ruleId: rule.id,
      ruleName: rule.name,
      version: rule.version,
      depth,
      ref: event.ref,
      verdict,
      because,
      steps,
    },
    written,
  });

  const selection = select(rule.trigger, recordType, event);
  if (!selection.fires) return end(selection.verdict, selection.because);

  if (guard) {
    const [ready = env] = await withLinked([guard], [env], workspace);
    const value = guard.run(ready);
    if (value instanceof FormulaError) return end('failed', `The guard failed: ${value.message}`);
    steps.push({
      kind: 'guard',
      formula: guard.source,
      holds: value === true,
      explained: explainForReport(guard, ready),
    });
    if (value !== true) {
      return end(
        'guard',
        `The guard does not hold${isBlank(value) ? ' (it is blank)' : ''}: ${guard.source}`,
      );
    }
  }

  const reached = await reach(compiled, env, workspace, steps);
  if ('verdict' in reached) return end(reached.verdict, reached.because);

  const written: Written[] = [];
  const tally = { errors: 0, first: '', reached: 0 };
  let { branches } = reached;
  for (const action of compiled.actions) {
    if (action.kind === 'create') {
      const made = await runCreate(action, branches, run, steps, tally);
      written.push(...made.written);
      branches = made.branches;
    } else written.push(...(await runWrite(action, branches, event, run, steps, tally)));
  }
  const records = `${written.length} ${written.length === 1 ? 'record' : 'records'}`;
  if (tally.errors > 0) {
    const lines = `${tally.errors} ${tally.errors === 1 ? 'line' : 'lines'} failed: ${tally.first}`;
    return end('failed', written.length > 0 ? `Writes ${records}; ${lines}` : lines, written);
  }
  if (written.length === 0) {
    const because = tally.reached === 0 ? 'No record was reached.' : 'Every field holds its value already.';
    return end(tally.reached === 0 ? 'nothing found' : 'nothing to write', because);
  }
  return end('writes', `Writes ${records}.`, written);
}

async function reach(
  { finds }: CompiledRule,
  env: Env,
  workspace: Workspace,
  steps: Step[],
): Promise<
  { readonly branches: readonly Branch[] } | { readonly verdict: RuleVerdict; readonly because: string }
> {
  let branches: Branch[] = [{ env, found: {}, lost: new Set() }];
  for (const find of finds) {
    const next: Branch[] = [];
    const envs = await withLinked(
      find.match.map(({ compiled }) => compiled),
      branches.map((branch) => branch.env),
      workspace,
    );
    for (const [at, branch] of branches.entries()) {
      const result = await runFind(find, envs[at] ?? branch.env, workspace);
      if (result.kind === 'problem') return { verdict: 'failed', because: result.message };
      steps.push(result.step);
      const { records } = result;
      if (records.length === 0) {
        const because = `No ${find.recordType} was found for “${find.alias}”.`;
        if (find.none === 'fail') return { verdict: 'failed', because };
        if (find.none === 'go on') next.push(extend(branch, find.alias, undefined));
        else if (branches.length === 1) return { verdict: 'nothing found', because };
        continue;
      }
      if (records.length > 1 && find.several === 'fail') {
        const because = `${records.length} records were found for “${find.alias}”, and one is wanted.`;
        return { verdict: 'failed', because };
      }
      next.push(...records.map((stored) => extend(branch, find.alias, stored)));
    }
    branches = next;
  }
  return { branches };
}

async function runWrite(
  action: CompiledWrite,
  branches: readonly Branch[],
  event: ChangeEvent,
  { workspace, observe }: RuleRun,
  steps: Step[],
  tally: Tally,
): Promise<Written[]> {
  const written: Written[] = [];
  let inFull = 0;
  let beyond = 0;
  const targets = await targetsOf(action, branches, event, workspace, steps);
  const envs = await withLinked(
    action.lines.map(({ compiled }) => compiled),
    targets.map(({ env }) => env),
    workspace,
  );
  observe?.(
    action,
    targets.map(({ target, env }, at) => ({ target, env: envs[at] ?? env })),
  );
  const resolve = await resolveKeys(action.lines, envs, workspace);
  for (const [at, { target, env, lost }] of targets.entries()) {
    tally.reached++;
    const missing = lostLines(action.lines, lost);
    const lines = action.lines.filter((line) => !missing.some(({ field }) => field === line.field));
    const { reports: computed, edits } = runLines(lines, target.record, envs[at] ?? env, resolve);
    const reports = [...computed, ...missing];
    if (inFull < writesInFull) steps.push({ kind: 'write', ref: target.ref, lines: reports });
    else beyond++;
    inFull++;
    for (const line of reports) {
      if (line.verdict !== 'error') continue;
      noteError(tally, `${line.field} of ${target.ref.recordType} ${target.ref.id}: ${line.because ?? ''}`);
    }
    if (edits.length === 0) continue;
    const [result] = await workspace.apply([{ change: { kind: 'edit', ref: target.ref, edits } }]);
    if (result?.ok) written.push({ ...target, created: false });
    else if (result) steps.push({ kind: 'problem', message: result.problem.message, ref: target.ref });
  }
  if (beyond > 0) steps.push({ kind: 'more', writes: beyond });
  return written;
}

interface Target {
  readonly target: StoredRecord;
  readonly env: Env;
  readonly lost: Branch['lost'];
}

/** The records that an action writes to, each with what its formulas see. */
async function targetsOf(
  action: CompiledWrite,
  branches: readonly Branch[],
  event: ChangeEvent,
  workspace: Workspace,
  steps: Step[],
): Promise<readonly Target[]> {
  const targets: Target[] = [];
  for (const branch of branches) {
    const found = branch.found[action.target];
    const target =
      action.target === 'record' ? await workspace.get(event.ref) : found && (await workspace.get(found.ref));
    const { lost } = branch;
    if (target) targets.push({ target, env: withTarget(branch.env, target.record), lost });
    else if (action.target === 'record') steps.push(gone(event));
  }
  return targets;
}

function gone(event: ChangeEvent): Step {
  return { kind: 'problem', message: 'The triggering record is not there any more.', ref: event.ref };
}

function withTarget(env: Env, target: JsonObject): Env {
  return { ...env, target };
}

import type { Env } from '../formula/scope';
import { creates } from './actions';
import type { ChangeEvent } from '../model/event';
import type { RecordRef } from '../model/record';
import type { Rule } from './rule';
import type { Catalog } from '../model/system';
import type { Workspace } from '../workspace/workspace';
import { OverlayWorkspace } from '../workspace/overlay';
import { runActions } from './actions';
import { startBranch } from './branch';
import type { CompiledRule } from './compiled';
import { passesGuard } from './guard';
import { rememberPair } from './counterparts';
import { reach } from './reach';
import {
  countSent,
  type PlannedMessage,
  type RuleRef,
  type RuleReport,
  type RuleVerdict,
  type Step,
  type WaitingChange,
} from './report';
import { noteFailures, type Counts, type RuleContext, type RuleRun, type Written } from './ruleContext';
import { stopwatch, timed } from './stopwatch';
import { select } from '../model/triggers';

export interface RuleOutcome {
  readonly report: RuleReport;
  readonly written: readonly Written[];
  readonly messages: readonly PlannedMessage[];
  /** Pairs of counterparts that were remembered. */
  readonly remembered: readonly RecordRef[];
  readonly waiting?: WaitingChange;
}

/** Takes one event through one rule: trigger, guard, finds, actions into the workspace. */
export async function runRule(
  compiled: CompiledRule,
  event: ChangeEvent,
  env: Env,
  run: RuleRun & { readonly catalog: Catalog },
): Promise<RuleOutcome> {
  const { rule, recordType } = compiled;
  const steps: Step[] = [];
  const took = stopwatch(run.clock);
  const end = (
    verdict: RuleVerdict,
    because: string,
    done: Partial<Pick<RuleOutcome, 'written' | 'messages' | 'remembered' | 'waiting'>> = {},
  ): RuleOutcome => ({
    report: {
      ruleId: rule.id,
      ruleName: rule.name,
      version: rule.version,
      depth: run.depth,
      ref: event.ref,
      verdict,
      because,
      ...took(),
      steps,
    },
    written: [],
    messages: [],
    remembered: [],
    ...done,
  });

  const selection = select(rule.trigger, recordType, event);
  if (!selection.fires) return end(selection.verdict, selection.because);
  if (run.paused?.has(rule.id)) {
    return end('waits', 'The rule is paused: the change waits until it goes on.', {
      waiting: { ruleId: rule.id, event },
    });
  }
  const { wait } = rule.trigger;
  const isOneOfMany = event.kind === 'updated' && event.folded === undefined && event.existing === undefined;
  if (wait !== undefined && run.waits && isOneOfMany) {
    return end('waits', `Waits ${secondsText(wait)} for further changes of the record.`, {
      waiting: { ruleId: rule.id, seconds: wait, event },
    });
  }
  const held = await timed(steps, run.clock, () => passesGuard(compiled, env, run.workspace, steps));
  if (held) return end(held.verdict, held.because);

  // A rule that stops at the first error must leave nothing behind; it works on a layer of its own.
  const stops = rule.onError === 'stop';
  const workspace = stops ? new OverlayWorkspace(run.catalog, run.workspace) : run.workspace;
  const reached = await reach(compiled, [startBranch(event.ref, env)], workspace, {
    steps,
    clock: run.clock,
  });
  if ('verdict' in reached) return end(reached.verdict, reached.because);

  const counts: Counts = { errors: 0, beyondLines: false, first: '', reached: 0, inFull: 0, beyond: 0 };
  const context: RuleContext = {
    ...run,
    perform: runActions,
    workspace,
    event,
    steps,
    counts,
    messages: [],
    written: [],
    remembered: [],
  };
  noteFailures(reached.failures, context);
  for (const { of, is } of reached.matched) await rememberPair(of, is, context);
  await runActions(compiled.actions, reached.branches, context);
  if (counts.beyond > 0) steps.push({ kind: 'more', writes: counts.beyond });

  if (stops && counts.errors > 0) {
    return end('failed', `Nothing is written, because ${errorsText(counts)}`);
  }
  if (stops && workspace instanceof OverlayWorkspace) await run.workspace.apply([...workspace.changes()]);
  const messages = context.messages.map((message) => ({ ...message, rule: ruleRef(rule) }));
  const { written } = context;
  const done = { written, messages, remembered: context.remembered };
  const doing = doingText({ records: written.length, ...countSent(messages) });
  if (counts.errors > 0) {
    return end('failed', doing === '' ? errorsText(counts) : `${doing}; ${errorsText(counts)}`, done);
  }
  if (doing !== '') return end('writes', `${doing}.`, done);
  if (counts.reached > 0) return end(nothingToWrite.verdict, nothingToWrite.because, done);
  return steps.some(({ kind }) => kind === 'passed over')
    ? end('nothing to write', 'No action has a condition that holds.')
    : end('nothing found', 'No record was reached.');
}

/** Returns a rule as reports and plans name it. */
export function ruleRef({ id, name, version }: Rule): RuleRef {
  return { id, name, version };
}

/** Returns whether an event gets past the trigger and the guard of a rule. */
export async function letsPass(
  compiled: CompiledRule,
  event: ChangeEvent,
  env: Env,
  workspace: Workspace,
): Promise<boolean> {
  const { rule, recordType } = compiled;
  return select(rule.trigger, recordType, event).fires && !(await passesGuard(compiled, env, workspace, []));
}

/** Returns whether a rule shows a person what it would create before it does. */
export function wantsReview({ rule }: CompiledRule): boolean {
  return rule.actions.some((action) => creates(action) && action.review === true);
}

/** What is told of a rule that leaves all that it reaches as it is. */
export const nothingToWrite = {
  verdict: 'nothing to write',
  because: 'Every field holds its value already.',
} as const;

/** Returns what a rule does, as the beginning of a sentence; blank where it does nothing. */
export function doingText({
  records,
  files,
  messages,
}: {
  readonly records: number;
  readonly files: number;
  readonly messages: number;
}): string {
  const counted = (number: number, one: string) => `${number} ${one}${number === 1 ? '' : 's'}`;
  const written = [
    ...(records > 0 ? [counted(records, 'record')] : []),
    ...(files > 0 ? [counted(files, 'file')] : []),
  ];
  const parts = [
    ...(written.length > 0 ? [`writes ${written.join(' and ')}`] : []),
    ...(messages > 0 ? [`sends ${counted(messages, 'message')}`] : []),
  ].join(', ');
  return parts.charAt(0).toUpperCase() + parts.slice(1);
}

function errorsText({ errors, beyondLines, first }: Counts): string {
  const what = beyondLines ? 'thing' : 'line';
  return `${errors} ${what}${errors === 1 ? '' : 's'} failed: ${first}`;
}

function secondsText(seconds: number): string {
  if (seconds % 3600 === 0) return seconds === 3600 ? 'an hour' : `${seconds / 3600} hours`;
  if (seconds % 60 === 0) return seconds === 60 ? 'a minute' : `${seconds / 60} minutes`;
  return seconds === 1 ? 'a second' : `${seconds} seconds`;
}

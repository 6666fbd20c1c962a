import {
  BeforeWorkspace,
  countSent,
  runEvent,
  WorkspaceError,
  WrittenSoFar,
  type Brought,
  type PlannedWrite,
  type Report,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { forgetDeaths, mostDeaths } from '../inbox/deaths';
import type { WaitingEvent } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { ConnectedWorkspace } from '../registry/connectedWorkspace';
import { countWrites, doneSoFar, firstIn, giveUpOpen, type WaitingWrite } from '../runs/plan';
import { stoppedBy, type RunSoFar } from '../runs/repository';
import { beginRun } from './beginRun';
import type { Computing } from './computing';
import type { Handled } from './handled';
import type { Sets } from './sets';
import { keepLargePlan, type ToKeep } from './sets/plan';
import type { RightOfWay } from './rightOfWay';
import { settle, type Beside, type Settled } from './settle';
import { bringIntoLine } from '../reconcile/bring';
import { undoRun } from '../undo/undoRun';
import { breath } from '../compute/breath';

/** What an event is handled with. */
interface Handling {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly computing: Computing;
  readonly sets: Sets;
  readonly beside: Beside;
  readonly rightOfWay: RightOfWay;
  /** Says that the event is none of those that go first. */
  readonly isLarge: () => void;
}

/** So long a run for many records stands aside for lone events before it computes; it sends one batch, for which it would wait no more. */
const asideMs = 100;

/** A plan of more writes is kept by itself, so that no other waits for it, and sent while no lone event is dealt with. */
const largePlan = 500;

/**
 * Handles one event, whose run may have begun in an earlier try: derives what changed, computes the plan, stores it, sends it. Every step leaves a mark in the
 * database first, so that another worker can take over after any of them.
 */
export async function handleEvent(
  { pool, registry, computing, sets, beside, rightOfWay, isLarge }: Handling,
  waiting: WaitingEvent,
  known: RunSoFar | undefined,
): Promise<Handled> {
  // Those that write many records are none that others of them stand aside for, also while they are computed.
  const ofMany = waiting.event.brings !== undefined;
  if (ofMany) {
    isLarge();
    await rightOfWay.standAside(asideMs);
  }
  try {
    const run = await beginRun({ pool, registry, sets }, waiting, known);
    if (run.ended) return { done: true, ...run.ended };
    if (run.stoppedBy !== null) return await stop(pool, waiting.id, run.stoppedBy);
    const written = run.plans > 0 ? WrittenSoFar.of(await doneSoFar(pool, waiting.id)) : WrittenSoFar.nothing;
    const workspace = new ConnectedWorkspace(registry);
    let report = run.report;
    let writes: readonly WaitingWrite[] | undefined;
    const conflicts = run.plans > 0 ? (await countWrites(pool, waiting.id)).conflict : 0;
    if (!report || conflicts > 0) {
      const { deaths } = waiting;
      if (deaths >= mostDeaths) return await park(pool, waiting.id);
      const { catalog, rules, paused } = registry;
      const before = run.plans > 0 ? new BeforeWorkspace(workspace, catalog, written) : workspace;
      const { undoes, brings } = run.event;
      const computed = await computing.around(waiting.id, deaths > 0, () => {
        if (undoes) return undoRun(pool, registry, run.event, undoes);
        if (brings)
          return bringIntoLine({ pool, registry, workspace: before }, waiting.id, run.event, brings);
        return runEvent(run.event, {
          catalog,
          rules,
          workspace: before,
          waits: true,
          paused,
          clock: () => performance.now(),
          pause: breath(),
        });
      });
      if (deaths > 0) await forgetDeaths(pool, waiting.id);
      report = undoes || brings ? computed.report : withBroken(computed.report, registry);
      const { id, attempts } = waiting;
      const plan: ToKeep = {
        computed: { id, plan: run.plans + 1, atTry: attempts, report, met: computed.met },
        left: leftOf(report, written),
      };
      writes = plan.left.length > largePlan ? await keepLargePlan(pool, plan) : await sets.plan.do(plan);
    }
    const asOthers = run.event.undoes?.starts === true;
    const large = ofMany || report.writes.length > largePlan;
    if (large) isLarge();
    const settled = await settle(
      { pool, sets, workspace, beside, ...(large && { rightOfWay }) },
      waiting.id,
      writes,
      { asOthers, planned: run.plans > 0 },
    );
    return await concluded(pool, waiting.id, report, settled);
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    const { message, retry, waits } = thrown.problem;
    return retry
      ? { done: false, because: message, soon: false, waits }
      : { done: true, result: 'failed', because: message };
  }
}

/** Ends the run of an event whose computation ended its thread too often; whoever mends the rule can let it be tried again. */
async function park(pool: Pool, id: string): Promise<Handled> {
  await forgetDeaths(pool, id);
  const because = `Parked: computing it ended the process ${mostDeaths} times, for lack of memory or time. It is not computed again by itself: make the rule lighter, then press “Try again”.`;
  return { done: true, result: 'failed', because };
}

/** Returns the writes of a report that are not made yet. */
function leftOf({ writes }: Report, written: WrittenSoFar): readonly PlannedWrite[] {
  return writes.flatMap((planned) => {
    const change = written.left(planned.change);
    return change ? [{ ...planned, change }] : [];
  });
}

/** Returns what a run came to whose writes were sent as far as they could be. */
async function concluded(
  pool: Pool,
  id: string,
  report: Report,
  { waits, contended, counts: counted, stoppedBy: stopper }: Settled,
): Promise<Handled> {
  const by = stopper ?? (counted ? undefined : (await stoppedBy(pool, [id])).get(id));
  if (by !== undefined) return stop(pool, id, by);
  const counts = counted ?? (await countWrites(pool, id));
  if (counts.conflict > 0) {
    const because = `${plural(counts.conflict, 'record was', 'records were')} changed in between; read again and computed anew.`;
    return { done: false, because, soon: true, contended };
  }
  if (counts.failed > 0) {
    const first = await firstIn(pool, id, 'failed');
    return {
      done: false,
      because: `${plural(counts.failed, 'write', 'writes')} failed: ${first?.problem ?? ''}`,
      soon: false,
      waits,
    };
  }
  const { messages, waiting } = report;
  const rulesFailed = report.rules.filter(({ verdict }) => verdict === 'failed');
  const wrong = [
    ...report.problems,
    ...rulesFailed.map(({ ruleName, because }) => `${ruleName}: ${because}`),
  ];
  if (counts.refused > 0) wrong.unshift(await firstRefusal(pool, id, counts.refused));
  if (wrong.length > 0) {
    const result = counts.written > 0 || messages.length > 0 ? 'partly failed' : 'failed';
    return { done: true, result, because: wrong.join(' '), messages, waiting };
  }
  const held = waiting.filter(({ seconds }) => seconds === undefined).length;
  if (counts.written > 0 || messages.length > 0) {
    if (report.undone)
      return { done: true, result: 'wrote', because: undoneText(counts.written, report.undone.stays) };
    const { files, messages: sent } = countSent(messages);
    const parts = [
      ...(counts.written > 0 ? [`${plural(counts.written, 'record', 'records')} written`] : []),
      ...(report.brought ? broughtWords(report.brought) : []),
      ...(files > 0 ? [`${plural(files, 'file', 'files')} made`] : []),
      ...(sent > 0 ? [`${plural(sent, 'message', 'messages')} sent`] : []),
      ...(held > 0 ? [`${plural(held, 'change waits', 'changes wait')} for what is paused`] : []),
    ];
    return { done: true, result: 'wrote', because: `${parts.join(', ')}.`, messages, waiting };
  }
  return { done: true, result: 'nothing', because: whyNothing(report), waiting };
}

/** Ends a run that somebody stopped; what is not written stays unwritten until it is taken up again. */
async function stop(pool: Pool, id: string, by: string): Promise<Handled> {
  await giveUpOpen(pool, id, `Not written, because ${by} stopped the run.`);
  const { written, skipped } = await countWrites(pool, id);
  const because = `${by} stopped it: ${plural(written, 'record is', 'records are')} written, ${skipped} not.`;
  return { done: true, result: written > 0 ? 'partly failed' : 'failed', because, stopped: true };
}

async function firstRefusal(pool: Pool, id: string, count: number): Promise<string> {
  const first = await firstIn(pool, id, 'refused');
  return `${plural(count, 'write was', 'writes were')} refused, the first for ${first?.recordType} ${first?.id}: ${first?.problem}`;
}

function undoneText(back: number, stays: number): string {
  const left = stays === 0 ? '' : `, ${plural(stays, 'stays as it is', 'stay as they are')}`;
  return `${plural(back, 'record was', 'records were')} taken back${left}.`;
}

/** What became of those records of a run for many that it does not write. */
function broughtWords({ left, apart, back }: Brought): readonly string[] {
  return [
    ...(left > 0
      ? [`${plural(left, 'was left out', 'were left out')} as changed since the look, or right by now`]
      : []),
    ...(apart > 0 ? [`${plural(apart, 'has a run of its own', 'have runs of their own')}`] : []),
    ...(back > 0
      ? [
          `${plural(back, 'was given back', 'were given back')}, because the rule does not run as it was looked at`,
        ]
      : []),
  ];
}

/** Returns one sentence for a run that wrote nothing. */
function whyNothing(report: Report): string {
  if (report.undone)
    return report.undone.stays > 0
      ? `Nothing is taken back: ${undoneText(0, report.undone.stays)}`
      : 'Nothing is left to be taken back.';
  if (report.brought)
    return `Nothing is written: ${broughtWords(report.brought).join(', ') || 'no record is left'}.`;
  const [first, ...more] = report.rules;
  if (!first) return 'No published rule is about this record type.';
  if (more.length === 0) return first.because;
  const started = report.rules.filter(
    ({ verdict }) => verdict !== 'not this kind' && verdict !== 'not watched',
  );
  if (started.length > 0) return started.map(({ ruleName, because }) => `${ruleName}: ${because}`).join(' ');
  const told = report.rules.find(({ verdict }) => verdict === 'not watched') ?? first;
  return `None of ${report.rules.length + (report.passedOver ?? 0)} rules was started. ${told.ruleName}: ${told.because}`;
}

/** Adds failed runs of rules that cannot be compiled, of those that the event could start. A published rule that no longer fits its surroundings fails visibly. */
function withBroken(report: Report, registry: Registry): Report {
  const { event } = report;
  const { ref, kind } = event;
  const concerned = registry.broken.filter(
    ({ rule: { id, trigger } }) =>
      trigger.system === ref.system &&
      trigger.recordType === ref.recordType &&
      trigger.kinds.includes(kind) &&
      (event.rule === undefined || event.rule === id),
  );
  return {
    ...report,
    problems: [
      ...report.problems,
      ...concerned.map(({ rule, because }) => `The rule “${rule.name}” cannot run: ${because}`),
    ],
  };
}

function plural(count: number, one: string, many: string): string {
  return `${count} ${count === 1 ? one : many}`;
}

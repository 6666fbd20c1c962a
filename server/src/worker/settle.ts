import {
  changeWithRealIds,
  fieldsOf,
  refKey,
  type ApplyResult,
  type PlannedWrite,
  type Problem,
  type RecordChange,
  type Workspace,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool } from '../db/pool';
import { rememberWrites, type OwnWrite } from '../images/derive';
import {
  creates,
  creationsOf,
  noteSending,
  noteWrites,
  waitingWrites,
  type Creations,
  type KeptState,
  type SettledWrite,
  type WaitingWrite,
} from '../runs/plan';
import { stoppedBy } from '../runs/repository';
import { OpenWrites } from './openWrites';

/** Batches that are sent or noted at the same time. */
const atOnce = 3;

/** Writes sent before their results are noted. */
const batchSize = 100;

/** What became of the writes of a run so far, as far as others depend on it. */
interface Course extends Creations {
  readonly runId: string;
  /** Records that were not written, and what their writes came to. */
  readonly unwritten: Map<string, KeptState>;
  /** The system that is not asked now, and until when. */
  waits: Problem['waits'];
}

/**
 * Sends the open writes of a run, those that others follow from first, and notes the result of each; `atHand` has them where the
 * plan was just stored. A write whose cause was refused is given up; one whose cause is to be tried again waits for it. Once
 * somebody stops the run, no further batch is sent. Returns the system that is to be waited for, where one is not asked now.
 */
export async function settle(
  pool: Pool,
  workspace: Workspace,
  runId: string,
  atHand: readonly WaitingWrite[] | undefined,
): Promise<Problem['waits']> {
  const open = new OpenWrites((after, most) => waitingWrites(pool, runId, after, most), atHand);
  const course: Course = {
    runId,
    ...(await creationsOf(pool, runId)),
    unwritten: new Map(),
    waits: undefined,
  };
  for (let stage = await open.stage(); stage; stage = await open.stage()) {
    const here = stage;
    let stopped = false;
    // While the result of one batch is noted, the next one is on its way. A creating write goes for itself: the next one may carry
    // the id that it gets.
    const lane = async () => {
      for (;;) {
        const batch = await open.take(here, here.creating ? 1 : batchSize);
        if (batch.length === 0) return;
        stopped ||= (await stoppedBy(pool, runId)) !== null;
        if (stopped) return;
        await sendWhatCan(pool, workspace, course, batch);
      }
    };
    await Promise.all(Array.from({ length: here.creating ? 1 : atOnce }, lane));
    if (stopped) break;
  }
  return course.waits;
}

/** Sends those writes of a batch that do not depend on one that did not happen. */
async function sendWhatCan(
  pool: Pool,
  workspace: Workspace,
  course: Course,
  batch: readonly WaitingWrite[],
): Promise<void> {
  const { runId, awaited, given, unwritten } = course;
  const caused = batch.filter(({ planned }) => !planned.cause || !unwritten.has(refKey(planned.cause)));
  await leaveWithCause(
    pool,
    course,
    batch.filter((write) => !caused.includes(write)),
  );
  const lost = caused.filter((write) => namesLost(write.planned, awaited, given));
  if (lost.length > 0) await giveUp(pool, runId, lost, unwritten);
  const sent = caused.filter((write) => !lost.includes(write));
  if (sent.length === 0) return;
  for (const { planned, state } of await sendBatch(pool, workspace, course, sent)) {
    if (state.state !== 'written') unwritten.set(refKey(state.ref), state.state);
    else if (creates(planned)) given.set(planned.change.ref.id, state.ref.id);
  }
}

/** Writes whose cause was not written: they wait where it is tried again, and are given up where not. */
async function leaveWithCause(
  pool: Pool,
  { runId, unwritten }: Course,
  writes: readonly WaitingWrite[],
): Promise<void> {
  const skipped: WaitingWrite[] = [];
  for (const write of writes) {
    const {
      cause,
      change: { ref },
    } = write.planned;
    const waits = cause && unwritten.get(refKey(cause)) === 'failed';
    unwritten.set(refKey(ref), waits ? 'failed' : 'skipped');
    if (!waits) skipped.push(write);
  }
  if (skipped.length === 0) return;
  const because = 'Not written, because the write that it follows from was not.';
  await noteWrites(
    pool,
    runId,
    skipped.map((write) => settledAs(write, 'skipped', because)),
  );
}

/** Returns whether a write carries the id of a record that was to be created before it and was not. */
function namesLost(
  { change }: PlannedWrite,
  awaited: ReadonlySet<string>,
  given: ReadonlyMap<string, string>,
): boolean {
  return fieldsOf(change).some(
    ({ after }) => typeof after === 'string' && awaited.has(after) && !given.has(after),
  );
}

/** A write that needs a record which was not created waits for it where that is tried again, and is given up where not. */
async function giveUp(
  pool: Pool,
  runId: string,
  lost: readonly WaitingWrite[],
  unwritten: Map<string, KeptState>,
): Promise<void> {
  const again = [...unwritten.values()].includes('failed');
  const because = 'Not written, because the record that it refers to was not created.';
  const settled = lost.map((write) => settledAs(write, again ? 'failed' : 'skipped', because));
  for (const { ref, state } of settled) unwritten.set(refKey(ref), state);
  await noteWrites(pool, runId, settled);
}

/** Sends one batch and notes what came of it. */
async function sendBatch(
  pool: Pool,
  workspace: Workspace,
  course: Course,
  batch: readonly WaitingWrite[],
): Promise<readonly { readonly planned: PlannedWrite; readonly state: SettledWrite }[]> {
  const { runId, given } = course;
  await noteSending(pool, runId, batch);
  const sent = batch.map(({ planned }) => changeWithRealIds(planned.change, given));
  const results = await workspace.apply(
    batch.map(({ planned, key }, at) => ({
      change: sent[at] ?? planned.change,
      key,
      ...(planned.version !== undefined && { version: planned.version }),
    })),
  );
  for (const result of results) if (!result.ok) course.waits ??= result.problem.waits;
  const settled = await noteBatch(pool, { runId, batch, sent, results });
  return batch.flatMap(({ planned }, at) => {
    const state = settled[at];
    return state ? [{ planned, state }] : [];
  });
}

/** Writes that were sent together, the changes as they were sent, and what their systems answered. */
interface SentBatch {
  readonly runId: string;
  readonly batch: readonly WaitingWrite[];
  readonly sent: readonly RecordChange[];
  readonly results: readonly ApplyResult[];
}

async function noteBatch(
  pool: Pool,
  { runId, batch, sent, results }: SentBatch,
): Promise<readonly SettledWrite[]> {
  const settled = batch.map((write, at) => {
    const result = results[at];
    if (result?.ok) {
      const { ref } = write.planned.change;
      return { ...settledAs(write, 'written', null), ref: { ...ref, id: result.id ?? ref.id } };
    }
    const problem = result?.problem;
    return settledAs(
      write,
      stateOf(problem?.code, problem?.retry ?? true),
      problem?.message ?? 'No result came back.',
    );
  });
  await inTransaction(pool, async (client) => {
    await noteWrites(client, runId, settled);
    const written = batch.flatMap(({ planned: { before } }, at): OwnWrite[] => {
      const [change, result] = [sent[at], results[at]];
      if (!change || !result?.ok) return [];
      const { ref, kind } = change;
      // A created record is remembered as its system gave it back: with its id, and with what the system added.
      return [
        {
          change: { ...change, ref: { ...ref, id: result.id ?? ref.id } },
          before: kind === 'create' ? (result.record ?? {}) : before,
          version: result.version,
        },
      ];
    });
    // What no answer came for may have been made all the same; its event is ours then.
    const unsure = batch.flatMap(({ planned: { before } }, at): OwnWrite[] => {
      const [change, result] = [sent[at], results[at]];
      const problem = result?.ok === false ? result.problem : undefined;
      const asked = !problem?.waits || problem.waits.sent;
      const unanswered = result === undefined || (problem?.code === 'unavailable' && asked);
      return change?.kind === 'edit' && unanswered
        ? [{ change, before, version: undefined, unsure: true }]
        : [];
    });
    await rememberWrites(client, [...written, ...unsure]);
    await tell(
      client,
      ...written.map(({ change }) => ({
        kind: 'record' as const,
        ref: change.ref,
        fields: fieldsOf(change).map(({ path }) => path),
        by: 'write' as const,
      })),
      // The run itself has come further.
      { kind: 'run', id: runId, state: 'waiting', result: null },
    );
  });
  return settled;
}

function stateOf(code: string | undefined, retry: boolean): KeptState {
  if (code === 'changed in between') return 'conflict';
  return retry ? 'failed' : 'refused';
}

function settledAs(
  { plan, seq, planned }: WaitingWrite,
  state: KeptState,
  problem: string | null,
): SettledWrite {
  return { plan, seq, ref: planned.change.ref, state, problem };
}

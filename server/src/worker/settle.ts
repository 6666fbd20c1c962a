import {
  refKey,
  writePath,
  type ApplyResult,
  type JsonObject,
  type PlannedWrite,
  type RecordChange,
  type Workspace,
  withRealIds,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool } from '../db/pool';
import { rememberWrites } from '../images/derive';
import { OpenWrites } from './openWrites';
import {
  creationsOf,
  noteSending,
  noteWrites,
  type Creations,
  type KeptState,
  type SettledWrite,
  type WaitingWrite,
  stoppedBy,
  waitingWrites,
} from '../runs/plan';

/** Batches that are sent or noted at the same time. */
const atOnce = 3;

/** Writes sent before their results are noted. */
const batchSize = 100;

/** What became of the writes of a run so far, as far as others depend on it. */
interface Course extends Creations {
  readonly runId: string;
  /** Records that were not written, and what their writes came to. */
  readonly unwritten: Map<string, KeptState>;
}

/**
 * Sends the open writes of a run, those that others follow from first, and notes the result of each; `atHand` has them where the
 * plan was just stored. A write whose cause was refused is given up; one whose cause is to be tried again waits for it. Once
 * somebody stops the run, no further batch is sent.
 */
export async function settle(
  pool: Pool,
  workspace: Workspace,
  runId: string,
  atHand: readonly WaitingWrite[] | undefined,
): Promise<void> {
  const open = new OpenWrites((after, most) => waitingWrites(pool, runId, after, most), atHand);
  const course: Course = {
    runId,
    ...(await creationsOf(pool, runId)),
    unwritten: new Map(),
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
    if (stopped) return;
  }
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
  for (const { planned, state } of await sendBatch(pool, workspace, runId, sent, given)) {
    if (state.state !== 'written') unwritten.set(refKey(state.ref), state.state);
    else if (planned.creates) given.set(planned.ref.id, state.ref.id);
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
    const { cause, ref } = write.planned;
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

/** Whether a write carries the id of a record that was to be created before it and was not. */
function namesLost(
  { edits }: PlannedWrite,
  awaited: ReadonlySet<string>,
  given: ReadonlyMap<string, string>,
): boolean {
  return edits.some(({ after }) => typeof after === 'string' && awaited.has(after) && !given.has(after));
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
  runId: string,
  batch: readonly WaitingWrite[],
  given: ReadonlyMap<string, string>,
): Promise<readonly { readonly planned: PlannedWrite; readonly state: SettledWrite }[]> {
  await noteSending(pool, runId, batch);
  const results = await workspace.apply(
    batch.map(({ planned, key }) => ({
      change: changeOf(planned, given),
      key,
      ...(planned.version !== undefined && { version: planned.version }),
    })),
  );
  const settled = await noteBatch(pool, runId, batch, results);
  return batch.flatMap(({ planned }, at) => {
    const state = settled[at];
    return state ? [{ planned, state }] : [];
  });
}

/** A planned write as it is sent: ids that stood for created records are now those that their systems gave. */
function changeOf(
  { ref, edits, creates, removes, before }: PlannedWrite,
  given: ReadonlyMap<string, string>,
): RecordChange {
  if (removes) {
    const record = before as JsonObject;
    return { kind: 'remove', ref: { ...ref, id: given.get(ref.id) ?? ref.id }, record };
  }
  const sent = edits.map((edit) =>
    edit.after === undefined ? edit : { ...edit, after: withRealIds(edit.after, given) },
  );
  if (!creates) return { kind: 'edit', ref: { ...ref, id: given.get(ref.id) ?? ref.id }, edits: sent };
  const record = sent.reduce<JsonObject>((made, { path, after }) => writePath(made, path, after ?? null), {});
  return { kind: 'create', ref, record };
}

async function noteBatch(
  pool: Pool,
  runId: string,
  batch: readonly WaitingWrite[],
  results: readonly ApplyResult[],
): Promise<readonly SettledWrite[]> {
  const settled = batch.map((write, at) => {
    const result = results[at];
    if (result?.ok) {
      const ref = { ...write.planned.ref, id: result.id ?? write.planned.ref.id };
      return { ...settledAs(write, 'written', null), ref };
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
    const written = batch.flatMap(({ planned: { ref, edits, before, creates, removes } }, at) => {
      const result = results[at];
      if (!result?.ok) return [];
      const real = { ...ref, id: result.id ?? ref.id };
      // A created record is remembered as its system gave it back: with its id, and with what the system added.
      return [
        {
          ref: real,
          edits,
          before: creates ? (result.record ?? {}) : before,
          version: result.version,
          removed: removes ?? false,
        },
      ];
    });
    await rememberWrites(client, written);
    await tell(
      client,
      ...written.map(({ ref, edits }) => ({
        kind: 'record' as const,
        ref,
        fields: edits.map(({ path }) => path),
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
  return { plan, seq, ref: planned.ref, state, problem };
}

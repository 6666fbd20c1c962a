import {
  refKey,
  writePath,
  type ApplyResult,
  type Json,
  type JsonObject,
  type PlannedWrite,
  type RecordChange,
  type Workspace,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool } from '../db/pool';
import { rememberWrites } from './derive';
import {
  createdIds,
  noteSending,
  noteWrites,
  type KeptState,
  type SettledWrite,
  type WaitingWrite,
  stoppedBy,
} from './plan';

/** Batches that are sent or noted at the same time. */
const atOnce = 3;

/** Writes sent before their results are noted. */
const batchSize = 100;

/**
 * Sends the writes of a plan, those that others follow from first, and notes the result of each. A write whose cause was
 * refused is given up; one whose cause is to be tried again waits for it. Once somebody stops the run, no further batch is sent.
 */
export async function settle(
  pool: Pool,
  workspace: Workspace,
  runId: string,
  writes: readonly WaitingWrite[],
): Promise<void> {
  const given = await createdIds(pool, runId);
  const unwritten = new Map<string, KeptState>();
  let stopped = false;
  const awaited = new Set(writes.flatMap(({ planned }) => (planned.creates ? [planned.ref.id] : [])));
  const depths = [...new Set(writes.map(({ planned }) => planned.depth))].sort((a, b) => a - b);
  for (const depth of depths) {
    const here = writes.filter(({ planned }) => planned.depth === depth);
    const sent = here.filter(({ planned }) => !planned.cause || !unwritten.has(refKey(planned.cause)));
    const send = async (planned: readonly WaitingWrite[]): Promise<void> => {
      stopped ||= (await stoppedBy(pool, runId)) !== null;
      if (stopped) return;
      const lost = planned.filter((write) => namesLost(write.planned, awaited, given));
      if (lost.length > 0) await giveUp(pool, runId, lost, unwritten);
      const batch = planned.filter((write) => !lost.includes(write));
      if (batch.length === 0) return;
      for (const { planned: write, state } of await sendBatch(pool, workspace, runId, batch, given)) {
        if (state.state !== 'written') unwritten.set(refKey(state.ref), state.state);
        else if (write.creates) given.set(write.ref.id, state.ref.id);
      }
    };
    const { creating, others } = batchesOf(sent);
    for (const batch of creating) await send(batch);
    // While the result of one batch is noted, the next one is on its way.
    const rest = [...others];
    const lane = async () => {
      for (let batch = rest.shift(); batch; batch = rest.shift()) await send(batch);
    };
    await Promise.all(Array.from({ length: atOnce }, lane));
    if (stopped) return;
    const unsent = here.filter((write) => !sent.includes(write));
    const skipped = unsent.filter(
      ({ planned }) => planned.cause && unwritten.get(refKey(planned.cause)) !== 'failed',
    );
    for (const { planned } of unsent)
      unwritten.set(refKey(planned.ref), skipped.length > 0 ? 'skipped' : 'failed');
    if (skipped.length > 0) {
      const because = 'Not written, because the write that it follows from was not.';
      await noteWrites(
        pool,
        runId,
        skipped.map((write) => settledAs(write, 'skipped', because)),
      );
    }
  }
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

/** Creating writes come first and each for itself: later ones, and other creating ones, may carry the id that it gets. */
function batchesOf(writes: readonly WaitingWrite[]): {
  readonly creating: readonly WaitingWrite[][];
  readonly others: readonly WaitingWrite[][];
} {
  const rest = writes.filter(({ planned }) => !planned.creates);
  const others: WaitingWrite[][] = [];
  for (let at = 0; at < rest.length; at += batchSize) others.push(rest.slice(at, at + batchSize));
  return { creating: writes.filter(({ planned }) => planned.creates).map((write) => [write]), others };
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
  const real = (value: Json | undefined): Json | undefined =>
    typeof value === 'string' ? (given.get(value) ?? value) : value;
  if (removes) {
    const record = before as JsonObject;
    return { kind: 'remove', ref: { ...ref, id: given.get(ref.id) ?? ref.id }, record };
  }
  const sent = edits.map((edit) => ({ ...edit, after: real(edit.after) }));
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

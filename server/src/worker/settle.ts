import { refKey, type ApplyResult, type Workspace, type WriteState } from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool } from '../db/pool';
import { rememberWrites } from './derive';
import { noteSending, noteWrites, type SettledWrite, type WaitingWrite } from './plan';

/** Writes sent before their results are noted. */
const batchSize = 100;

/**
 * Sends the writes of a plan, those that others follow from first, and notes the result of each. A write whose cause was
 * refused is given up; one whose cause is to be tried again waits for it.
 */
export async function settle(
  pool: Pool,
  workspace: Workspace,
  runId: string,
  writes: readonly WaitingWrite[],
): Promise<void> {
  const unwritten = new Map<string, WriteState>();
  const depths = [...new Set(writes.map(({ planned }) => planned.depth))].sort((a, b) => a - b);
  for (const depth of depths) {
    const here = writes.filter(({ planned }) => planned.depth === depth);
    const sent = here.filter(({ planned }) => !planned.cause || !unwritten.has(refKey(planned.cause)));
    for (let at = 0; at < sent.length; at += batchSize) {
      const batch = sent.slice(at, at + batchSize);
      await noteSending(pool, runId, batch);
      const results = await workspace.apply(
        batch.map(({ planned, key }) => ({
          change: { kind: 'edit', ref: planned.ref, edits: planned.edits },
          key,
          ...(planned.version !== undefined && { version: planned.version }),
        })),
      );
      const settled = await noteBatch(pool, runId, batch, results);
      for (const { ref, state } of settled) if (state !== 'written') unwritten.set(refKey(ref), state);
    }
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

async function noteBatch(
  pool: Pool,
  runId: string,
  batch: readonly WaitingWrite[],
  results: readonly ApplyResult[],
): Promise<readonly SettledWrite[]> {
  const settled = batch.map((write, at) => {
    const result = results[at];
    if (result?.ok) return settledAs(write, 'written', null);
    const problem = result?.problem;
    return settledAs(
      write,
      stateOf(problem?.code, problem?.retry ?? true),
      problem?.message ?? 'No result came back.',
    );
  });
  await inTransaction(pool, async (client) => {
    await noteWrites(client, runId, settled);
    const written = batch.flatMap(({ planned: { ref, edits, before } }, at) => {
      const result = results[at];
      return result?.ok ? [{ ref, edits, before, version: result.version }] : [];
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
    );
  });
  return settled;
}

function stateOf(code: string | undefined, retry: boolean): WriteState {
  if (code === 'changed in between') return 'conflict';
  return retry ? 'failed' : 'refused';
}

function settledAs(
  { plan, seq, planned }: WaitingWrite,
  state: WriteState,
  problem: string | null,
): SettledWrite {
  return { plan, seq, ref: planned.ref, state, problem };
}

import type { PlannedWrite } from '@vast-knot/core';
import { inTransaction, type Pool } from '../../db/pool';
import { giveUpOpen, storePlans, type WaitingWrite } from '../../runs/plan';
import { keepComputed, type Computed } from '../../runs/repository';

/** What a run computed, and what of it is left to be written. */
export interface ToKeep {
  readonly computed: Computed;
  readonly left: readonly PlannedWrite[];
}

/** A plan that was stored. */
export interface Kept {
  /** Its writes, to be sent; undefined for one so large that it is better read in parts. */
  readonly writes: readonly WaitingWrite[] | undefined;
  /** Who wants the run to be stopped. */
  readonly stoppedBy: string | undefined;
}

/** Keeps what runs computed before any of it is sent. */
export async function keepPlans(pool: Pool, all: readonly ToKeep[]): Promise<readonly Kept[]> {
  return inTransaction(pool, async (client) => {
    const stopped = await keepComputed(
      client,
      all.map(({ computed }) => computed),
    );
    for (const { computed } of all) if (computed.plan > 1) await giveUpOpen(client, computed.id, null);
    const stored = await storePlans(
      client,
      all.map(({ computed: { id, plan }, left }) => ({ runId: id, plan, planned: left })),
    );
    return all.map(({ computed }, at) => ({ writes: stored[at], stoppedBy: stopped.get(computed.id) }));
  });
}

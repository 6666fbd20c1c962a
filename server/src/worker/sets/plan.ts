import type { PlannedWrite } from '@vast-knot/core';
import { inTransaction, together, type Pool } from '../../db/pool';
import { giveUpOpen, storePlan, storingWrites, writesOf, type WaitingWrite } from '../../runs/plan';
import { keepingComputed, type Computed } from '../../runs/repository';

/** What a run computed, and what of it is left to be written. */
export interface ToKeep {
  readonly computed: Computed;
  readonly left: readonly PlannedWrite[];
}

const planOf = ({ computed: { id, plan }, left }: ToKeep) => ({ runId: id, plan, planned: left });

/** Keeps what runs computed before any of it is sent. Returns the writes of each, to be sent. */
export async function keepPlans(
  pool: Pool,
  all: readonly ToKeep[],
): Promise<readonly (readonly WaitingWrite[])[]> {
  const computed = all.map((each) => each.computed);
  const anew = computed.filter(({ plan }) => plan > 1);
  if (anew.length === 0) {
    const writes = await writesOf(pool, all.map(planOf));
    await together(pool, keepingComputed(computed), ...storingWrites(writes.flat()));
    return writes;
  }
  return inTransaction(pool, async (client) => {
    for (const { id } of anew) await giveUpOpen(client, id, null);
    const writes = await writesOf(client, all.map(planOf));
    await together(client, keepingComputed(computed), ...storingWrites(writes.flat()));
    return writes;
  });
}

/** As `keepPlans`, for a large plan. Returns undefined for one so large that it is better read in parts. */
export async function keepLargePlan(pool: Pool, plan: ToKeep): Promise<readonly WaitingWrite[] | undefined> {
  return inTransaction(pool, async (client) => {
    await client.query(keepingComputed([plan.computed]));
    if (plan.computed.plan > 1) await giveUpOpen(client, plan.computed.id, null);
    return storePlan(client, planOf(plan));
  });
}

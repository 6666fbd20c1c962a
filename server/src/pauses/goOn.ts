import type { Runner } from '../db/pool';
import { releaseWaiting, waitingFor } from '../inbox/inbox';
import { dropWaiting } from '../runs/drop';
import { queueConnecting } from '../systems/connecting';

/**
 * Lets systems that are not paused any more go on: with what waited for them, or without, where `droppedBy` says who dropped it; and with
 * what changed meanwhile. Returns how many events waited.
 */
export async function goOnWith(
  runner: Runner,
  systems: readonly string[],
  droppedBy: string | null,
): Promise<number> {
  const count =
    droppedBy === null
      ? (await waitingFor(runner, systems)).length
      : await dropWaiting(runner, systems, droppedBy);
  for (const system of systems) {
    await releaseWaiting(runner, system);
    await queueConnecting(runner, system);
  }
  return count;
}

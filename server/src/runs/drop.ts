import type { Runner } from '../db/pool';
import { dropEvents, waitingFor } from '../inbox/inbox';
import { beginRuns } from './repository';

/**
 * Drops what waits for systems: nothing more is done about those events, and they are kept as runs that can be taken up. A run that has
 * written already is marked to be stopped instead, so that it says what is written and what is not once it is let go. Returns how many events
 * there were.
 */
export async function dropWaiting(runner: Runner, systems: readonly string[], by: string): Promise<number> {
  const ids = await waitingFor(runner, systems);
  const { rows: begun } = await runner.query<{ id: string }>(
    `SELECT DISTINCT run_id AS id FROM writes WHERE run_id = ANY ($1) AND state IN ('written', 'sending')`,
    [ids],
  );
  const hasWritten = new Set(begun.map(({ id }) => id));
  const because = `Dropped by ${by}: it waited for what was paused.`;
  const dropped = await dropEvents(
    runner,
    ids.filter((id) => !hasWritten.has(id)),
    because,
  );
  const { rows: known } = await runner.query<{ id: string }>(
    `UPDATE runs SET state = 'done', result = 'dropped', because = $2, finished_at = now() WHERE id = ANY ($1) RETURNING id`,
    [dropped.map(({ id }) => id), because],
  );
  const hasRun = new Set(known.map(({ id }) => id));
  await beginRuns(
    runner,
    dropped
      .filter(({ id }) => !hasRun.has(id))
      .map(({ id, event }) => ({ id, event, ended: { result: 'dropped' as const, because } })),
  );
  await runner.query('UPDATE runs SET stopped_by = $2 WHERE id = ANY ($1)', [[...hasWritten], by]);
  return ids.length;
}

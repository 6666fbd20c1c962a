import type { RecordRef } from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool } from '../db/pool';
import { queueRecord } from '../inbox/inbox';
import type { RegistryCache } from '../registry/registry';
import { storeMessages } from '../messages/repository';
import { keepWaiting } from '../waits/waits';
import { writesOnTheirWay } from '../images/images';
import { creationsOf } from '../runs/plan';
import { handleEvent, type Handled, type WaitingEvent } from './handleEvent';

export interface RecordJobOptions {
  readonly pool: Pool;
  readonly registry: RegistryCache;
  readonly mostAttempts: number;
}

/** How long an event waits for the result of a write of ours to the same record. */
const inFlightMs = 100;

interface NextEvent extends WaitingEvent {
  readonly attempts: number;
  readonly nextAt: Date;
  readonly due: boolean;
}

/** Handles the waiting events of one record, oldest first; one that must wait makes the later ones wait as well. */
export async function handleRecord(ref: RecordRef, options: RecordJobOptions): Promise<void> {
  const { pool, registry } = options;
  for (let next = await oldest(pool, ref); next; next = await oldest(pool, ref)) {
    if (!next.due) {
      await queueRecord(pool, ref, next.nextAt);
      return;
    }
    const { edits, creating } = await writesOnTheirWay(pool, [ref]);
    if (edits.size + creating.size > 0) {
      await queueRecord(pool, ref, new Date(Date.now() + inFlightMs));
      return;
    }
    const handled = await handleEvent(pool, await registry.get(), next);
    await noteHandled(pool, next, handled, options.mostAttempts);
  }
}

async function oldest(pool: Pool, ref: RecordRef): Promise<NextEvent | undefined> {
  const { rows } = await pool.query<NextEvent>(
    `SELECT id, event, attempts, next_at AS "nextAt", next_at <= now() AS due FROM inbox
     WHERE state = 'waiting' AND system = $1 AND record_type = $2 AND record_id = $3 ORDER BY id LIMIT 1`,
    [ref.system, ref.recordType, ref.id],
  );
  return rows[0];
}

async function noteHandled(
  pool: Pool,
  { id, attempts, event }: NextEvent,
  handled: Handled,
  most: number,
): Promise<void> {
  const givenUp = !handled.done && attempts + 1 >= most;
  const state = handled.done
    ? handled.result === 'failed' || handled.stopped
      ? 'failed'
      : 'done'
    : givenUp
      ? 'failed'
      : 'waiting';
  const result = handled.done ? handled.result : givenUp ? 'failed' : null;
  const because = givenUp ? `Given up after ${most} tries: ${handled.because}` : handled.because;
  await inTransaction(pool, async (client) => {
    await client.query(
      `UPDATE inbox SET state = $2, because = $3, attempts = attempts + 1, next_at = now() + $4 * interval '1 ms'
       WHERE id = $1`,
      [id, state, because, handled.done ? 0 : waitMs(attempts, handled.soon)],
    );
    await client.query(
      `UPDATE runs SET state = $2, result = $3, because = $4, finished_at = CASE WHEN $2 = 'done' THEN now() END
       WHERE id = $1`,
      [id, state === 'waiting' ? 'waiting' : 'done', result, because],
    );
    if (handled.done) {
      const { messages = [], waiting = [] } = handled;
      if (messages.length + waiting.length > 0) {
        const { given } = await creationsOf(client, id);
        await storeMessages(client, id, event.time, messages, given);
        await keepWaiting(client, waiting, given);
      }
    }
    await tell(client, { kind: 'run', id, state, result });
  });
}

/** Half a second, doubled with every try, a minute at most; a conflict is taken up again at once. */
function waitMs(attempts: number, soon: boolean): number {
  return soon && attempts < 5 ? 0 : Math.min(60_000, 500 * 2 ** attempts);
}

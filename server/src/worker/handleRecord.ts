import type { Logger as Log } from 'pino';
import type { RecordRef } from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, isDatabaseAway, type Pool } from '../db/pool';
import { noteTried, oldestWaiting, queueRecord, type WaitingEvent } from '../inbox/inbox';
import type { RegistrySource } from '../registry/registry';
import { storeMessages } from '../messages/repository';
import { keepWaiting } from '../waits/waits';
import { writesOnTheirWay } from '../runs/onTheirWay';
import { creationsOf } from '../runs/plan';
import { noteRun } from '../runs/repository';
import type { Computing } from './computing';
import { handleEvent, type Handled } from './handleEvent';

interface RecordJobOptions {
  readonly pool: Pool;
  readonly registry: RegistrySource;
  readonly computing: Computing;
  readonly mostAttempts: number;
  readonly log: Log;
}

/** How long an event waits for the result of a write of ours to the same record. */
const inFlightMs = 100;

/** Handles the waiting events of one record, oldest first; one that must wait makes the later ones wait as well. */
export async function handleRecord(ref: RecordRef, options: RecordJobOptions): Promise<void> {
  const { pool, registry, computing } = options;
  for (let next = await oldestWaiting(pool, ref); next; next = await oldestWaiting(pool, ref)) {
    if (!next.due) {
      await queueRecord(pool, ref, next.nextAt);
      return;
    }
    const { edits, creating } = await writesOnTheirWay(pool, [ref], next.id);
    if (edits.size + creating.size > 0) {
      await queueRecord(pool, ref, new Date(Date.now() + inFlightMs));
      return;
    }
    const handled = await handleEvent({ pool, registry: await registry.get(), computing }, next).catch(
      (thrown: unknown): Handled => brokenOff(thrown, options.log),
    );
    await noteHandled(pool, next, handled, options.mostAttempts);
  }
}

/**
 * Returns what an exception comes to: a try like others, told in the run, so that the record's next event is not stuck behind it. Where
 * the database is away nothing can be noted; the job comes again.
 */
function brokenOff(thrown: unknown, log: Log): Handled {
  if (isDatabaseAway(thrown)) throw thrown;
  log.error(thrown, 'an event could not be handled');
  const why = thrown instanceof Error ? thrown.message : String(thrown);
  return { done: false, because: `Vast Knot itself failed at it: ${why}`, soon: false };
}

async function noteHandled(
  pool: Pool,
  { id, attempts, event }: WaitingEvent,
  handled: Handled,
  most: number,
): Promise<void> {
  const waits = handled.done ? undefined : handled.waits;
  // What waits for a system is not given up, however long that is away.
  const givenUp = !handled.done && !waits && attempts + 1 >= most;
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
    const waitMs = handled.done ? 0 : waits ? waits.until - Date.now() : pauseMs(attempts, handled.soon);
    await noteTried(client, id, {
      state,
      because,
      waitMs: Math.max(0, waitMs),
      waitsFor: waits?.system,
      result,
    });
    await noteRun(client, id, { done: state !== 'waiting', result, because, anew: waits !== undefined });
    if (handled.done) {
      const { messages = [], waiting = [] } = handled;
      if (messages.length + waiting.length > 0) {
        const { given } = await creationsOf(client, id);
        await storeMessages(client, { runId: id, time: event.time, planned: messages, created: given });
        await keepWaiting(client, waiting, given);
      }
    }
    await tell(client, { kind: 'run', id, state, result });
  });
}

/** Half a second, doubled with every try, a minute at most; a conflict is taken up again at once. */
function pauseMs(attempts: number, soon: boolean): number {
  return soon && attempts < 5 ? 0 : Math.min(60_000, 500 * 2 ** attempts);
}

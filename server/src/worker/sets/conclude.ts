import { tell } from '../../db/notices';
import { inTransaction, type Pool } from '../../db/pool';
import { noteTried, type Tried, type WaitingEvent } from '../../inbox/inbox';
import { storeMessages } from '../../messages/repository';
import { creationsOf } from '../../runs/plan';
import { noteRuns } from '../../runs/repository';
import { keepWaiting } from '../../waits/waits';
import type { Handled } from '../handleEvent';

/** A try that has ended. */
export interface ToConclude {
  readonly waiting: WaitingEvent;
  readonly handled: Handled;
}

/** Notes what tries came to: their events are done, given up after `most` tries, or wait for another one. */
export async function conclude(
  pool: Pool,
  most: number,
  all: readonly ToConclude[],
): Promise<readonly undefined[]> {
  await inTransaction(pool, async (client) => {
    const tried = all.map(({ waiting, handled }) => triedAs(waiting, handled, most));
    await noteTried(client, tried);
    await noteRuns(
      client,
      tried.map(({ id, state, result, because, waitsFor }) => {
        return { id, done: state !== 'waiting', result, because, anew: waitsFor !== undefined };
      }),
    );
    for (const { waiting, handled } of all) {
      const { messages = [], waiting: changes = [] } = handled.done ? handled : {};
      if (messages.length + changes.length === 0) continue;
      const { id, event } = waiting;
      const { given } = await creationsOf(client, id);
      await storeMessages(client, { runId: id, time: event.time, planned: messages, created: given });
      await keepWaiting(client, changes, given);
    }
    await tell(
      client,
      ...tried.map(({ id, state, result }) => ({ kind: 'run' as const, id, state, result })),
    );
  });
  return all.map(() => undefined);
}

function triedAs({ id, attempts }: WaitingEvent, handled: Handled, most: number): Tried {
  if (handled.done) {
    const failed = handled.result === 'failed' || handled.stopped;
    const { because, result } = handled;
    return { id, state: failed ? 'failed' : 'done', because, result, waitMs: 0 };
  }
  const { waits, soon, because } = handled;
  // What waits for a system is not given up, however long that is away.
  if (waits) {
    const waitMs = Math.max(0, waits.until - Date.now());
    return { id, state: 'waiting', because, result: null, waitMs, waitsFor: waits.system };
  }
  return attempts + 1 >= most
    ? {
        id,
        state: 'failed',
        because: `Given up after ${most} tries: ${because}`,
        result: 'failed',
        waitMs: 0,
      }
    : { id, state: 'waiting', because, result: null, waitMs: pauseMs(attempts, soon) };
}

/** Half a second, doubled with every try, a minute at most; a conflict is taken up again at once. */
function pauseMs(attempts: number, soon: boolean): number {
  return soon && attempts < 5 ? 0 : Math.min(60_000, 500 * 2 ** attempts);
}

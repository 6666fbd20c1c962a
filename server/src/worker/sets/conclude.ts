import { telling } from '../../db/notices';
import { inTransaction, together, type Pool, type Runner } from '../../db/pool';
import { notingTried, type Tried, type WaitingEvent } from '../../inbox/inbox';
import { storeMessages } from '../../messages/repository';
import { creationsOf } from '../../runs/plan';
import { notingRuns } from '../../runs/repository';
import { noteFailed } from '../../reconcile/choosing';
import { keepWaiting } from '../../waits/waits';
import type { Measures } from '../../metrics/measures';
import type { Handled } from '../handled';

/** A try that has ended. */
export interface ToConclude {
  readonly waiting: WaitingEvent;
  readonly handled: Handled;
}

/** Notes what tries came to: their events are done, given up after `most` tries, or wait for another one. */
export async function conclude(
  pool: Pool,
  { most, measures }: { readonly most: number; readonly measures: Measures },
  all: readonly ToConclude[],
): Promise<readonly undefined[]> {
  const tried = all.map(({ waiting, handled }) => triedAs(waiting, handled, most));
  const note = (runner: Runner) =>
    together(
      runner,
      notingTried(tried),
      notingRuns(
        tried.map(({ id, state, result, because, waitsFor }) => {
          return { id, done: state !== 'waiting', result, because, anew: waitsFor !== undefined };
        }),
      ),
      telling(tried.map(({ id, state, result }) => ({ kind: 'run', id, state, result }))),
    );
  const more = all.filter(({ handled }) => handled.done && leadsOn(handled));
  const ofMany = tried.flatMap(({ id, result, because }, at) => {
    const brings = all[at]?.waiting.event.brings;
    return brings && (result === 'failed' || result === 'partly failed') ? [{ id, brings, because }] : [];
  });
  if (more.length + ofMany.length === 0) await note(pool);
  else
    await inTransaction(pool, async (client) => {
      await note(client);
      for (const each of more) await leadOn(client, each);
      for (const { id, brings, because } of ofMany) await noteFailed(client, id, brings, because);
    });
  for (const [at, { state, result }] of tried.entries()) {
    const { event, receivedAt } = all[at]?.waiting ?? {};
    if (state !== 'waiting' && event && receivedAt)
      measures.runEnded(event.ref.system, result ?? state, (Date.now() - receivedAt.getTime()) / 1000);
  }
  return all.map(() => undefined);
}

function leadsOn({ messages = [], waiting = [] }: Extract<Handled, { done: true }>): boolean {
  return messages.length + waiting.length > 0;
}

/** Stores what is sent once a run has ended, and what rules wait with from then on. */
async function leadOn(client: Runner, { waiting: { id, event }, handled }: ToConclude): Promise<void> {
  const { messages = [], waiting = [] } = handled.done ? handled : {};
  const { given } = await creationsOf(client, id);
  await storeMessages(client, { runId: id, time: event.time, planned: messages, created: given });
  await keepWaiting(client, waiting, given);
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
    const { system: waitsFor, away = false } = waits;
    return { id, state: 'waiting', because, result: null, waitMs, waitsFor, away };
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

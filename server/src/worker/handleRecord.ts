import { setTimeout } from 'node:timers/promises';
import type { Logger as Log } from 'pino';
import { refKey, type RecordRef } from '@vast-knot/core';
import { isDatabaseAway, type Pool } from '../db/pool';
import type { WaitingEvent } from '../inbox/inbox';
import type { RegistrySource } from '../registry/registry';
import type { Computing } from './computing';
import type { Handled } from './handled';
import { handleEvent } from './handleEvent';
import type { RightOfWay } from './rightOfWay';
import type { Beside } from './settle';
import type { Sets } from './sets';
import type { Turns } from './turns';

/** What the events of records are handled with. */
export interface RecordHandling {
  readonly pool: Pool;
  readonly registry: RegistrySource;
  readonly computing: Computing;
  readonly sets: Sets;
  readonly turns: Turns;
  readonly rightOfWay: RightOfWay;
  readonly log: Log;
  /** Whether no further event is to be begun with. */
  readonly stopping: () => boolean;
}

/** How long an event waits for the result of a write of ours to the same record. */
const inFlightMs = 100;

/**
 * Handles the waiting events of one record, oldest first; one that must wait makes the later ones wait as well. Returns until when;
 * undefined when none waits any more.
 */
export async function handleRecord(ref: RecordRef, handling: RecordHandling): Promise<Date | undefined> {
  const { pool, registry, computing, sets, turns, rightOfWay, log, stopping } = handling;
  // The records at which this event was overtaken.
  let contended: readonly RecordRef[] = [];
  for (;;) {
    const end = rightOfWay.begin();
    try {
      const next = await sets.next.do(ref);
      if (!next) return undefined;
      const { waiting, run, blocked } = next;
      if (!waiting.due || stopping()) return waiting.nextAt;
      if (blocked) {
        // It may wait for a large run itself, which is not to stand aside for it.
        end();
        await setTimeout(inFlightMs);
        continue;
      }
      // Whoever has records alone waits for no others, so that no two wait for each other.
      const beside = contended.length > 0 ? unasked : asTurnsSay(turns);
      const handled: Handled = await turns
        .alone(contended.map(refKey), async () =>
          handleEvent(
            { pool, registry: await registry.get(), computing, sets, beside, rightOfWay, isLarge: end },
            waiting,
            run,
          ),
        )
        .catch((thrown: unknown) => brokenOff(thrown, log.child({ run: waiting.id })));
      await sets.conclude.do({ waiting, handled });
      tell(log, waiting, handled);
      contended = handled.done || !handled.contended ? [] : [...contended, ...handled.contended];
    } finally {
      end();
    }
  }
}

/** Sends at once. */
const unasked: Beside = (_refs, send) => send();

/** Sends when nobody has one of the records alone. */
function asTurnsSay(turns: Turns): Beside {
  return (refs, send) => turns.beside(refs.map(refKey), send);
}

/** Says in the log what a try came to: with the id of the run and its record, and no value of it. */
function tell(log: Log, { id: run, event, attempts }: WaitingEvent, handled: Handled): void {
  const about = { run, system: event.ref.system, recordType: event.ref.recordType, record: event.ref.id };
  if (!handled.done) log.debug({ ...about, attempt: attempts + 1 }, 'a run waits for another try');
  else if (handled.result === 'failed' || handled.result === 'partly failed')
    log.warn({ ...about, result: handled.result }, 'a run failed');
  else log.debug({ ...about, result: handled.result }, 'a run ended');
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

import { refKey, type RecordRef } from '@vast-knot/core';
import { Gather } from '../../db/gather';
import type { Pool } from '../../db/pool';
import { unmeasured, type Measures } from '../../metrics/measures';
import { nextOf, type Next } from '../../runs/next';
import { notingSending, type WaitingWrite } from '../../runs/plan';
import type { RunSoFar } from '../../runs/repository';
import { deriveAndBegin, type ToDerive } from './begin';
import { conclude, type ToConclude } from './conclude';
import { measureWrites, noteResults, type ToNote } from './note';
import { keepPlans, type ToKeep } from './plan';

/** Events of one turn at most. */
const most = 100;

/**
 * What handling events asks of the database. Under a backlog many events are handled at the same time, and what they ask in the same
 * moment is asked with one statement and kept with one commit; an event alone is served at once.
 */
export class Sets {
  readonly next: Gather<RecordRef, Next | undefined>;
  readonly begin: Gather<ToDerive, RunSoFar | undefined>;
  readonly plan: Gather<ToKeep, readonly WaitingWrite[]>;
  readonly send: Gather<readonly WaitingWrite[], undefined>;
  readonly note: Gather<ToNote, string | undefined>;
  readonly conclude: Gather<ToConclude, undefined>;
  /** As `note`, for so many that nobody else waits for them. */
  readonly noteAlone: (one: ToNote) => Promise<string | undefined>;

  /** After `mostAttempts` tries an event is given up. */
  constructor(pool: Pool, mostAttempts: number, measures: Measures = unmeasured) {
    this.next = new Gather(
      async (refs) => {
        const next = await nextOf(pool, refs);
        return refs.map((ref) => next.get(refKey(ref)));
      },
      { most },
    );
    this.begin = new Gather((all) => deriveAndBegin(pool, all), { most });
    this.plan = new Gather((all) => keepPlans(pool, all), { most });
    this.send = new Gather(
      async (all) => {
        await pool.query(notingSending(all.flat()));
        return all.map(() => undefined);
      },
      { most },
    );
    const note = async (all: readonly ToNote[]) => {
      const stopped = await noteResults(pool, all);
      measureWrites(measures, all);
      return stopped;
    };
    this.note = new Gather(note, { most });
    this.noteAlone = async (one) => (await note([one]))[0];
    this.conclude = new Gather((all) => conclude(pool, { most: mostAttempts, measures }, all), { most });
  }
}

import { setTimeout } from 'node:timers/promises';
import type { Json } from '@vast-knot/core';
import { takeAll } from '../intake/takeAll';
import { JobEnds, type JobKind } from '../jobs/runJob';
import { holding } from '../reconcile/holding';
import { chooseRows, nextRows, noteRuns, progressOf, type RowChoice } from './choosing';
import { readArrival } from './repository';
import { eventOf, layRow, readyArrival, sourceOf } from './rows';

/** Rows that are handed over in one step. */
const atOnce = 100;
/** Runs that may be under way: more are not begun, so that a pause comes soon, and others come to their turn. */
const mostUnderWay = 400;
/** So long it waits for runs that are under way. */
const waitMs = 200;

/** What is asked for: which rows of which file, under the id of the job. */
export interface ApplyAsked {
  readonly arrival: string;
  readonly job: string;
  readonly choice: RowChoice;
}

/**
 * Has rows applied that were chosen: each as an event, so that what it does is a run as others are. The id of the event is made from the file and the
 * row, so that none is applied twice, whatever is killed.
 */
export const applyFileKind: JobKind = {
  kind: 'apply a file',

  async open(asked, memory, { pool, registry }) {
    // What we kept ourselves has the shape in which we kept it.
    const { arrival: id, job, choice } = asked as unknown as ApplyAsked;
    const kept = await readArrival(pool, id);
    if (!kept) throw new JobEnds('The file is not kept any more.');
    if (memory === null) await chooseRows(pool, id, job, choice);
    let progress = await progressOf(pool, job);
    const at = () => ({
      memory: { chosen: true } as Json,
      done: progress.begun - progress.underWay,
      total: progress.total,
    });
    return {
      step: () =>
        holding(at(), async () => {
          const current = await registry.get();
          const found = readyArrival(kept, current);
          if (!found.ok) throw new JobEnds(found.because);
          const { ready } = found;
          const room = progress.underWay < mostUnderWay;
          const rows = room ? await nextRows(pool, job, { source: sourceOf(id), limit: atOnce }) : [];
          const open = rows.filter(({ begun }) => begun === null);
          const taken = await takeAll(
            pool,
            current,
            open.map((row) => eventOf(ready, row.at, layRow(ready, row))),
          );
          await noteRuns(pool, id, [
            ...rows.flatMap(({ at: row, begun }) => (begun === null ? [] : [{ at: row, run: begun }])),
            // What was taken by a process that was killed since is found with the next step.
            ...open.flatMap(({ at: row }, n) => {
              const run = taken[n]?.id;
              return run === undefined ? [] : [{ at: row, run }];
            }),
          ]);
          progress = await progressOf(pool, job);
          const ended = progress.begun === progress.total && progress.underWay === 0;
          if (!ended && (!room || rows.length === 0)) await setTimeout(waitMs);
          return { ...at(), ended };
        }),
    };
  },
};

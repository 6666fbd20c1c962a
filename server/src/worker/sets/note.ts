import { fieldsOf, type Notice } from '@vast-knot/core';
import { telling } from '../../db/notices';
import { inTransaction, together, type Pool } from '../../db/pool';
import { imagesAfterWrites, type OwnWrite } from '../../images/derive';
import { keepingImages } from '../../images/images';
import type { Measures } from '../../metrics/measures';
import { notingWrites, type SettledWrite } from '../../runs/plan';
import { stoppedBy } from '../../runs/repository';

/** Results of writes of one run. */
export interface ToNote {
  readonly runId: string;
  readonly settled: readonly SettledWrite[];
  /** Those that were made, or may have been. */
  readonly own: readonly OwnWrite[];
  /** The run has more to write; people see how far it has come. */
  readonly goesOn: boolean;
}

/**
 * Saves the results of writes and takes those that were made into the images. Returns for each run that goes on who wants it to be
 * stopped.
 */
export async function noteResults(
  pool: Pool,
  all: readonly ToNote[],
): Promise<readonly (string | undefined)[]> {
  await inTransaction(pool, async (client) => {
    const images = await imagesAfterWrites(
      client,
      all.flatMap((each) => each.own),
    );
    const notices = all.flatMap(({ runId, own: made, goesOn }): Notice[] => [
      ...made
        .filter(({ unsure }) => !unsure)
        .map(({ change }): Notice => {
          const fields = fieldsOf(change).map(({ path }) => path);
          return { kind: 'record', ref: change.ref, fields, by: 'write' };
        }),
      ...(goesOn ? [{ kind: 'run', id: runId, state: 'waiting', result: null } as const] : []),
    ]);
    await together(
      client,
      ...notingWrites(all.flatMap(({ settled }) => settled)),
      keepingImages(images),
      telling(notices),
    );
  });
  const more = all.filter(({ goesOn }) => goesOn).map(({ runId }) => runId);
  const stopped = more.length > 0 ? await stoppedBy(pool, more) : undefined;
  return all.map(({ runId }) => stopped?.get(runId));
}

/** Counts what writes came to. */
export function measureWrites(measures: Measures, all: readonly ToNote[]): void {
  const counts = new Map<string, { system: string; state: string; count: number }>();
  for (const { ref, state } of all.flatMap(({ settled }) => settled)) {
    const key = `${ref.system} ${state}`;
    const known = counts.get(key) ?? { system: ref.system, state, count: 0 };
    known.count++;
    counts.set(key, known);
  }
  for (const { system, state, count } of counts.values()) measures.wrote(system, state, count);
}

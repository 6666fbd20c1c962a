import { fieldsOf, type Notice } from '@vast-knot/core';
import { tell } from '../../db/notices';
import { inTransaction, type Pool } from '../../db/pool';
import { rememberWrites, type OwnWrite } from '../../images/derive';
import { noteWrites, type SettledWrite } from '../../runs/plan';

/** Results of writes of one run. */
export interface ToNote {
  readonly runId: string;
  readonly settled: readonly SettledWrite[];
  /** Those that were made, or may have been. */
  readonly own: readonly OwnWrite[];
  /** The run has more to write; people see how far it has come. */
  readonly goesOn: boolean;
}

/** Saves the results of writes and takes those that were made into the images. Returns for each run who wants it to be stopped. */
export async function noteResults(
  pool: Pool,
  all: readonly ToNote[],
): Promise<readonly (string | undefined)[]> {
  return inTransaction(pool, async (client) => {
    const stopped = await noteWrites(
      client,
      all.flatMap(({ settled }) => settled),
    );
    const own = all.flatMap((each) => each.own);
    if (own.length > 0) await rememberWrites(client, own);
    const notices = all.flatMap(({ runId, own: made, goesOn }): Notice[] => [
      ...made
        .filter(({ unsure }) => !unsure)
        .map(({ change }): Notice => {
          const fields = fieldsOf(change).map(({ path }) => path);
          return { kind: 'record', ref: change.ref, fields, by: 'write' };
        }),
      ...(goesOn ? [{ kind: 'run', id: runId, state: 'waiting', result: null } as const] : []),
    ]);
    if (notices.length > 0) await tell(client, ...notices);
    return all.map(({ runId }) => stopped.get(runId));
  });
}

import { refKey, type RecordRef } from '@vast-knot/core';
import type { Pool } from '../../db/pool';
import { oldestWaiting, type WaitingEvent } from '../../inbox/inbox';
import { writesOnTheirWay } from '../../runs/onTheirWay';
import { readRunsSoFar, type RunSoFar } from '../../runs/repository';

/** What is to be done next for a record. */
export interface Next {
  /** Its oldest waiting event. */
  readonly waiting: WaitingEvent;
  /** The run of the event, where it has begun. */
  readonly run: RunSoFar | undefined;
  /** A write of ours to the record is on its way: its event could not be told from somebody else's change. */
  readonly blocked: boolean;
}

/** Returns for each record what is to be done next; undefined where nothing waits. */
export async function nextOf(pool: Pool, refs: readonly RecordRef[]): Promise<readonly (Next | undefined)[]> {
  const oldest = await oldestWaiting(pool, refs);
  if (oldest.size === 0) return refs.map(() => undefined);
  const events = [...oldest.values()];
  const [runs, { edits, creating }] = await Promise.all([
    readRunsSoFar(
      pool,
      events.map(({ id }) => id),
    ),
    writesOnTheirWay(
      pool,
      events.map(({ id, event }) => ({ ref: event.ref, exceptRun: id })),
    ),
  ]);
  return refs.map((ref) => {
    const key = refKey(ref);
    const waiting = oldest.get(key);
    return waiting && { waiting, run: runs.get(waiting.id), blocked: edits.has(key) || creating.has(key) };
  });
}

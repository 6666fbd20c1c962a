import { leafFields, type ChangeEvent, type Notice } from '@vast-knot/core';
import { telling } from '../../db/notices';
import { inTransaction, together, type Pool } from '../../db/pool';
import { deriveFrom, type Comparison, type Looked } from '../../images/derive';
import { keepingImages } from '../../images/images';
import type { ReceivedEvent, WaitingEvent } from '../../inbox/inbox';
import { endOf } from '../../intake/takeAll';
import { beginningRuns, type RunEnd, type RunSoFar } from '../../runs/repository';

/** An event whose run is to begin, with what it is compared with. */
export interface ToDerive {
  readonly waiting: WaitingEvent;
  readonly recordType: Comparison['recordType'];
  readonly versionOf: Comparison['versionOf'];
  readonly looked: Looked | undefined;
}

/**
 * Derives what events changed, each of another record, and begins their runs; undefined for those whose record has to be looked at
 * first.
 */
export async function deriveAndBegin(
  pool: Pool,
  all: readonly ToDerive[],
): Promise<readonly (RunSoFar | undefined)[]> {
  return inTransaction(pool, async (client) => {
    const { derived, images } = await deriveFrom(
      client,
      all.map(({ waiting, ...comparison }) => ({ ...comparison, received: waiting.event })),
    );
    const begun: { id: string; event: ChangeEvent; ended: RunEnd | undefined }[] = [];
    const notices: Notice[] = [];
    const runs = all.map(({ waiting, recordType, looked }, at): RunSoFar | undefined => {
      const result = derived[at];
      if (!result || result.is === 'unsure') return undefined;
      const ended = endOf(result);
      const event = withReading(result.event, waiting.event, looked);
      begun.push({ id: waiting.id, event, ended });
      const fields =
        event.kind === 'updated' ? event.changed : leafFields(recordType.fields).map(({ path }) => path);
      if (!ended && fields.length > 0) notices.push({ kind: 'record', ref: event.ref, fields, by: 'event' });
      return begunNow(event, waiting, ended);
    });
    await together(client, keepingImages(images), beginningRuns(begun), telling(notices));
    return runs;
  });
}

/** Returns a run that begins with this try. */
export function begunNow(
  event: ChangeEvent,
  { attempts }: WaitingEvent,
  ended: RunEnd | undefined,
): RunSoFar {
  return { event, report: null, plans: 0, plannedTry: attempts, ended, stoppedBy: null };
}

/** Notes with an event that its record was read, where it was not as the event told it. */
export function withReading(
  event: ChangeEvent,
  received: ReceivedEvent,
  looked: Looked | undefined,
): ChangeEvent {
  const asTold = !looked?.found || JSON.stringify(looked.found.record) === JSON.stringify(received.record);
  return asTold ? event : { ...event, readAt: new Date().toISOString() };
}

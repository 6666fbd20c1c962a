import { refKey, type RecordRef, type RunResult } from '@vast-knot/core';
import { prepared, type Runner } from '../db/pool';
import type { WaitingEvent } from '../inbox/inbox';
import type { RunSoFar } from './repository';

/** What is to be done next for a record. */
export interface Next {
  /** Its oldest waiting event. */
  readonly waiting: WaitingEvent;
  /** The run of the event, where it has begun. */
  readonly run: RunSoFar | undefined;
  /** A write of ours to the record is on its way: its event could not be told from somebody else's change. */
  readonly blocked: boolean;
}

interface NextRow extends WaitingEvent {
  readonly run:
    (Omit<RunSoFar, 'ended'> & { readonly result: RunResult | null; readonly because: string }) | null;
  readonly blocked: boolean;
}

const nextStatement = prepared(
  'next',
  `SELECT oldest.*, next_at <= now() AS due,
     coalesce((SELECT deaths FROM computation_deaths WHERE event_id = oldest.id), 0) AS deaths,
     (SELECT to_jsonb(begun) FROM (
        SELECT event, report, plans, planned_try AS "plannedTry", result, because, stopped_by AS "stoppedBy"
        FROM runs WHERE runs.id = oldest.id) AS begun) AS run,
     EXISTS (SELECT 1 FROM flights WHERE NOT creates AND sent_at > now() - interval '30 seconds' AND run_id <> oldest.id
       AND (flights.system, flights.record_type, flights.record_id) = (asked.system, asked.record_type, asked.record_id))
     OR EXISTS (SELECT 1 FROM flights WHERE creates AND sent_at > now() - interval '30 seconds' AND run_id <> oldest.id
       AND (flights.system, flights.record_type) = (asked.system, asked.record_type)) AS blocked
   FROM unnest($1::text[], $2::text[], $3::text[]) AS asked (system, record_type, record_id),
     LATERAL (SELECT id, event, attempts, received_at AS "receivedAt", next_at AS "nextAt", next_at FROM inbox WHERE state = 'waiting'
       AND (inbox.system, inbox.record_type, inbox.record_id) = (asked.system, asked.record_type, asked.record_id)
       ORDER BY id LIMIT 1) AS oldest`,
);

/**
 * Returns what is to be done next for each record of which an event waits, by the key of the record: its oldest event, with the run that
 * has begun for it. What a killed worker left on its way blocks a record for half a minute; a run's own writes never do.
 */
export async function nextOf(runner: Runner, refs: readonly RecordRef[]): Promise<ReadonlyMap<string, Next>> {
  const { rows } = await runner.query<NextRow>(
    nextStatement([
      refs.map(({ system }) => system),
      refs.map(({ recordType }) => recordType),
      refs.map(({ id }) => id),
    ]),
  );
  return new Map(
    rows.map(({ run, blocked, ...waiting }) => [
      refKey(waiting.event.ref),
      { waiting, run: run ? soFar(run) : undefined, blocked },
    ]),
  );
}

function soFar({ result, because, ...run }: NonNullable<NextRow['run']>): RunSoFar {
  return {
    ...run,
    ...((result === 'own write' || result === 'late') && { ended: { result, because } }),
  };
}

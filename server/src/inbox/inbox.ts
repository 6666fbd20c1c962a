import { refKey, type ChangeEvent, type RecordRef, type RunResult } from '@vast-knot/core';
import { laneChannel, tell } from '../db/notices';
import { inTransaction, type Pool, type Runner } from '../db/pool';

/** A change event as it came, before it is known what changed. */
export type ReceivedEvent = Omit<ChangeEvent, 'changed'> & {
  /** What the sender says changed; used only where no image of the record is at hand. */
  readonly claimed: readonly string[];
  /** The sender does not say when it happened; `time` is when it came. */
  readonly untimed?: true;
  /** It holds only some fields of the record: the record is read before it is known what changed. */
  readonly part?: true;
  /** It was taken in again by a person: what is computed with is the record as it is by then. */
  readonly again?: true;
};

/** Returns an event without what only says how it is to be taken. */
export function eventOf(received: ReceivedEvent): Omit<ChangeEvent, 'changed'> {
  const { claimed: _claimed, untimed: _untimed, part: _part, again: _again, ...event } = received;
  return event;
}

/** Where an event in the inbox stands: to be handled, handled, or given up. */
export type InboxState = 'waiting' | 'done' | 'failed';

/** Puts an event into the inbox in a transaction of its own; see `insertEvent`. */
export async function accept(pool: Pool, event: ReceivedEvent): Promise<string | undefined> {
  return inTransaction(pool, (client) => insertEvent(client, event));
}

/**
 * Puts an event into the inbox and a job for its record into the queue. Returns the id of its run; undefined for an event that is
 * there already, by its source and id.
 */
export async function insertEvent(client: Runner, event: ReceivedEvent): Promise<string | undefined> {
  const id = (await insertEvents(client, [event])).get(event);
  if (id === undefined) return undefined;
  await queueRecords(client, [event.ref]);
  await tell(client, { kind: 'run', id, state: 'waiting', result: null });
  return id;
}

/** What is known of an event as it comes. */
interface AsItComes {
  /** What it came to where nobody has to handle it. */
  readonly ended: (event: ReceivedEvent) => { readonly result: string; readonly because: string } | undefined;
  /** How people call its record. */
  readonly nameOf: (event: ReceivedEvent) => string | undefined;
}

const nothingKnown: AsItComes = { ended: () => undefined, nameOf: () => undefined };

/**
 * Inserts events into the inbox in their order; those that nobody has to handle are kept as done, with the reason. Returns the id of
 * the run of each event; what is there already, by its source and id, has none.
 */
export async function insertEvents(
  client: Runner,
  events: readonly ReceivedEvent[],
  { ended, nameOf }: AsItComes = nothingKnown,
): Promise<ReadonlyMap<ReceivedEvent, string>> {
  if (events.length === 0) return new Map();
  const { rows } = await client.query<{ id: string; source: string; event_id: string }>(
    `INSERT INTO inbox (system, source, event_id, record_type, record_id, kind, event, state, because, result, record_name)
     SELECT event->'ref'->>'system', event->>'source', event->>'id', event->'ref'->>'recordType', event->'ref'->>'id',
       event->>'kind', event, CASE WHEN result IS NULL THEN 'waiting' ELSE 'done' END, because, result, name
     FROM json_to_recordset($1::json) AS came (at integer, event jsonb, because text, result text, name text)
     ORDER BY at
     ON CONFLICT (source, event_id) WHERE state IN ('waiting', 'done', 'failed') DO NOTHING
     RETURNING id, source, event_id`,
    [JSON.stringify(events.map((event, at) => ({ at, event, ...ended(event), name: nameOf(event) })))],
  );
  const given = new Map(rows.map(({ id, source, event_id: event }) => [`${source} ${event}`, id]));
  return new Map(
    events.flatMap((event): [ReceivedEvent, string][] => {
      const id = given.get(`${event.source} ${event.id}`);
      return id === undefined ? [] : [[event, id]];
    }),
  );
}

/** Returns the events that are not in the inbox yet; the same event twice among them counts once. */
export async function notTakenBefore(
  client: Runner,
  events: readonly ReceivedEvent[],
): Promise<readonly ReceivedEvent[]> {
  const { rows } = await client.query<{ source: string; event_id: string }>(
    `SELECT source, event_id FROM inbox WHERE state IN ('waiting', 'done', 'failed')
       AND (source, event_id) IN (SELECT * FROM unnest($1::text[], $2::text[]))`,
    [events.map(({ source }) => source), events.map(({ id }) => id)],
  );
  const known = new Set(rows.map((row) => `${row.source} ${row.event_id}`));
  return events.filter(({ source, id }) => {
    const key = `${source} ${id}`;
    if (known.has(key)) return false;
    known.add(key);
    return true;
  });
}

/** Returns the keys of those records of which an event still waits. */
export async function recordsWithWaiting(client: Runner, refs: readonly RecordRef[]): Promise<Set<string>> {
  const { rows } = await client.query<RecordRef>(
    `SELECT DISTINCT system, record_type AS "recordType", record_id AS id FROM inbox
     WHERE state = 'waiting'
       AND (system, record_type, record_id) IN (SELECT * FROM unnest($1::text[], $2::text[], $3::text[]))`,
    [refs.map(({ system }) => system), refs.map(({ recordType }) => recordType), refs.map(({ id }) => id)],
  );
  return new Set(rows.map(refKey));
}

/** An event that waits to be handled. */
export interface WaitingEvent {
  readonly id: string;
  readonly event: ReceivedEvent;
  /** How often it was tried. */
  readonly attempts: number;
  readonly nextAt: Date;
  /** Whether it is time to handle it. */
  readonly due: boolean;
  /** How often computing it ended the thread that did it. */
  readonly deaths: number;
}

/** Returns the oldest waiting event of each record that has one, by the key of the record. */
export async function oldestWaiting(
  runner: Runner,
  refs: readonly RecordRef[],
): Promise<ReadonlyMap<string, WaitingEvent>> {
  const { rows } = await runner.query<WaitingEvent>(
    `SELECT id, event, attempts, next_at AS "nextAt", next_at <= now() AS due, coalesce(deaths, 0) AS deaths
     FROM unnest($1::text[], $2::text[], $3::text[]) AS asked (system, record_type, record_id),
       LATERAL (SELECT id, event, attempts, next_at FROM inbox WHERE state = 'waiting'
         AND (inbox.system, inbox.record_type, inbox.record_id) = (asked.system, asked.record_type, asked.record_id)
         ORDER BY id LIMIT 1) AS oldest
       LEFT JOIN computation_deaths ON computation_deaths.event_id = oldest.id`,
    [refs.map(({ system }) => system), refs.map(({ recordType }) => recordType), refs.map(({ id }) => id)],
  );
  return new Map(rows.map((row) => [refKey(row.event.ref), row]));
}

/** What a try to handle an event came to. */
export interface Tried {
  readonly id: string;
  readonly state: InboxState;
  readonly because: string;
  /** After so many milliseconds an event that still waits is tried again. */
  readonly waitMs: number;
  /** The system that it waits for; then it was no try. */
  readonly waitsFor?: string | undefined;
  readonly result: RunResult | null;
}

/** Saves the results of tries to handle events. */
export async function noteTried(runner: Runner, tried: readonly Tried[]): Promise<void> {
  await runner.query(
    `UPDATE inbox SET state = tried.state, because = tried.because, next_at = now() + "waitMs" * interval '1 ms',
       waits_for = "waitsFor", result = tried.result,
       trouble = coalesce(tried.result IN ('failed', 'partly failed'), false),
       attempts = attempts + CASE WHEN "waitsFor" IS NULL THEN 1 ELSE 0 END
     FROM json_to_recordset($1::json) AS tried (id bigint, state text, because text, "waitMs" float8, "waitsFor" text, result text)
     WHERE inbox.id = tried.id`,
    [JSON.stringify(tried)],
  );
}

/** A share of the records of a system, whose events are handled by one job. */
export interface Lane {
  readonly system: string;
  readonly lane: number;
}

/** Returns records of a lane with an event that is due, in the order of their events from after one on; a record may come twice. */
export async function dueInLane(
  runner: Runner,
  { system, lane }: Lane,
  after: string,
  most: number,
): Promise<readonly { readonly event: string; readonly ref: RecordRef }[]> {
  const { rows } = await runner.query<RefRow & { readonly id: string }>(
    `SELECT id, system, record_type AS "recordType", record_id AS "recordId" FROM inbox
     WHERE state = 'waiting' AND system = $1 AND lane_of(system, record_type, record_id) = $2 AND id > $3 AND next_at <= now()
     ORDER BY id LIMIT $4`,
    [system, lane, after, most],
  );
  return rows.map((row) => ({ event: row.id, ref: refOf(row) }));
}

/** Returns when the next event of a lane is due that is not yet. */
export async function nextInLane(runner: Runner, { system, lane }: Lane): Promise<Date | undefined> {
  const { rows } = await runner.query<{ next: Date | null }>(
    `SELECT min(next_at) AS next FROM inbox
     WHERE state = 'waiting' AND system = $1 AND lane_of(system, record_type, record_id) = $2 AND next_at > now()`,
    [system, lane],
  );
  return rows[0]?.next ?? undefined;
}

interface RefRow {
  readonly system: string;
  readonly recordType: string;
  readonly recordId: string;
}

const refOf = ({ system, recordType, recordId }: RefRow): RecordRef => ({ system, recordType, id: recordId });

/** Lets an event that failed, or waits for another try, be handled from anew. Returns its record; undefined for any other. */
export async function reopen(runner: Runner, id: string): Promise<RecordRef | undefined> {
  const { rows } = await runner.query<RefRow>(
    `UPDATE inbox SET state = 'waiting', attempts = 0, next_at = now(), result = NULL, trouble = false
     WHERE id = $1 AND (state = 'failed' OR (state = 'waiting' AND attempts > 0))
     RETURNING system, record_type AS "recordType", record_id AS "recordId"`,
    [id],
  );
  return rows[0] && refOf(rows[0]);
}

/** Makes a waiting event due now. Returns its record; undefined when it does not wait. */
export async function makeDue(runner: Runner, id: string): Promise<RecordRef | undefined> {
  const { rows } = await runner.query<RefRow>(
    `UPDATE inbox SET next_at = now() WHERE id = $1 AND state = 'waiting'
     RETURNING system, record_type AS "recordType", record_id AS "recordId"`,
    [id],
  );
  return rows[0] && refOf(rows[0]);
}

/** How much waits to be handled. */
interface Queue {
  readonly waiting: number;
  /** How long the oldest has waited, in seconds; null where none waits. */
  readonly oldestSeconds: number | null;
  /** When an event was last done with, ISO 8601; null before the first. */
  readonly finished: Date | null;
}

/** Returns how much waits, and when something was last done with. */
export async function readQueue(runner: Runner): Promise<Queue> {
  const { rows } = await runner.query<Queue>(
    `SELECT (SELECT count(*)::integer FROM inbox WHERE state = 'waiting') AS waiting,
       (SELECT floor(extract(epoch FROM now() - received_at))::integer FROM inbox WHERE state = 'waiting' ORDER BY id LIMIT 1)
         AS "oldestSeconds",
       (SELECT max(finished_at) FROM (SELECT finished_at FROM runs ORDER BY id DESC LIMIT 100) AS latest) AS finished`,
  );
  const [queue] = rows;
  if (!queue) throw new Error('a count gives a row');
  return queue;
}

/** Lets the events that wait for a system be handled now. */
export async function releaseWaiting(runner: Runner, system: string): Promise<void> {
  const { rows } = await runner.query<RefRow>(
    `UPDATE inbox SET next_at = now(), waits_for = NULL WHERE state = 'waiting' AND waits_for = $1
     RETURNING system, record_type AS "recordType", record_id AS "recordId"`,
    [system],
  );
  await queueRecords(runner, rows.map(refOf));
}

/** Events that wait longer than so many seconds after their time have lost their job. */
const lostAfterSeconds = 20;

/** Gives jobs to lanes with events that wait and have none, after whatever went wrong. Returns how many lanes there were. */
export async function queueLost(runner: Runner, afterSeconds = lostAfterSeconds): Promise<number> {
  const { rowCount } = await runner.query(
    `SELECT ${addLaneJob} FROM (
       SELECT DISTINCT system, lane_of(system, record_type, record_id) AS lane FROM inbox
       WHERE state = 'waiting' AND next_at < now() - $1 * interval '1 second'
     ) AS lost
     WHERE NOT EXISTS (SELECT 1 FROM graphile_worker._private_jobs AS job
       WHERE job.key = ${laneKey} AND job.attempts < job.max_attempts)`,
    [afterSeconds],
  );
  return rowCount ?? 0;
}

/** Returns the id of the last event that came in; 0 before the first. */
export async function lastId(runner: Runner): Promise<string> {
  const { rows } = await runner.query<{ last: string }>('SELECT coalesce(max(id), 0) AS last FROM inbox');
  return rows[0]?.last ?? '0';
}

/** The key of a lane: of its job, of its queue, and as it is told to those who work at it. */
const laneKey = `concat('lane-', system, '-', lane)`;
/** Lanes have one job at most that waits, and never two that run. */
const addLaneJob = `graphile_worker.add_job('handle_lane', json_build_object('system', system, 'lane', lane),
  queue_name := ${laneKey}, job_key := ${laneKey}), pg_notify('${laneChannel}', ${laneKey})`;

/** Asks for the waiting events of records to be handled now. A job that is at work in their lane hears of it. */
export async function queueRecords(runner: Runner, refs: readonly RecordRef[]): Promise<void> {
  if (refs.length === 0) return;
  await runner.query(
    `SELECT ${addLaneJob} FROM (
       SELECT DISTINCT system, lane_of(system, type, id) AS lane FROM unnest($1::text[], $2::text[], $3::text[]) AS of (system, type, id)
     ) AS lanes`,
    [refs.map(({ system }) => system), refs.map(({ recordType }) => recordType), refs.map(({ id }) => id)],
  );
}

/** Lets a lane be looked at again at a later time; where that was asked for meanwhile, at the time for which it was. */
export async function queueLane(runner: Runner, { system, lane }: Lane, at: Date): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('handle_lane', json_build_object('system', system, 'lane', lane),
       queue_name := ${laneKey}, job_key := ${laneKey}, run_at := $3::timestamptz, job_key_mode := 'preserve_run_at')
     FROM (VALUES ($1::text, $2::integer)) AS one (system, lane)`,
    [system, lane, at],
  );
}

/** Most messages kept that could not be taken, so that a stranger cannot fill the disk. */
const keptMessages = 1000;
const keptLength = 16_384;

/** A message that could not be taken. */
interface Rejected {
  readonly system: string;
  readonly state: 'malformed' | 'refused';
  readonly because: string;
  /** What was sent, as far as it is text. */
  readonly body: string | undefined;
}

/** Keeps a message that could not be taken, with the reason, to be shown. */
export async function keepRejected(pool: Pool, { system, state, because, body }: Rejected): Promise<void> {
  const { rows } = await pool.query<{ id: string }>(
    'INSERT INTO inbox (system, state, because, body) VALUES ($1, $2, $3, $4) RETURNING id',
    [system, state, because, body?.slice(0, keptLength).toWellFormed().replaceAll('\0', '\ufffd')],
  );
  await pool.query(
    `DELETE FROM inbox WHERE state = $1 AND id <=
       (SELECT id FROM inbox WHERE state = $1 ORDER BY id DESC OFFSET ${keptMessages} LIMIT 1)`,
    [state],
  );
  await tell(pool, { kind: 'run', id: rows[0]?.id ?? '0', state, result: null });
}

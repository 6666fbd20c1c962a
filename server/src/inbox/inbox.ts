import { refKey, type ChangeEvent, type RecordRef, type RunResult } from '@vast-knot/core';
import { tell } from '../db/notices';
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

/** Lanes of one system: so many of its records are handled at the same time, whatever becomes of those of others. */
const lanes = 8;

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

/** Returns the oldest waiting event of a record. */
export async function oldestWaiting(runner: Runner, ref: RecordRef): Promise<WaitingEvent | undefined> {
  const { rows } = await runner.query<WaitingEvent>(
    `SELECT id, event, attempts, next_at AS "nextAt", next_at <= now() AS due, coalesce(deaths, 0) AS deaths
     FROM inbox LEFT JOIN computation_deaths ON computation_deaths.event_id = inbox.id
     WHERE state = 'waiting' AND system = $1 AND record_type = $2 AND record_id = $3 ORDER BY id LIMIT 1`,
    [ref.system, ref.recordType, ref.id],
  );
  return rows[0];
}

/** Saves the result of a try to handle an event; one that still waits is tried again after `waitMs` milliseconds. */
export async function noteTried(
  runner: Runner,
  id: string,
  tried: {
    readonly state: InboxState;
    readonly because: string;
    readonly waitMs: number;
    /** The system that it waits for; then it was no try. */
    readonly waitsFor?: string | undefined;
    readonly result: RunResult | null;
  },
): Promise<void> {
  await runner.query(
    `UPDATE inbox SET state = $2, because = $3, next_at = now() + $4 * interval '1 ms', waits_for = $5,
       result = $6, trouble = coalesce($6 IN ('failed', 'partly failed'), false),
       attempts = attempts + CASE WHEN $5::text IS NULL THEN 1 ELSE 0 END
     WHERE id = $1`,
    [id, tried.state, tried.because, tried.waitMs, tried.waitsFor ?? null, tried.result],
  );
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
  await queueRecords(runner, rows.map(refOf), 'replace');
}

/** Events that wait longer than so many seconds after their time have lost their job. */
const lostAfterSeconds = 20;

/** Gives jobs to records whose events wait and have none, after whatever went wrong. Returns how many there were. */
export async function queueLost(runner: Runner): Promise<number> {
  const { rows } = await runner.query<RefRow>(
    `SELECT DISTINCT system, record_type AS "recordType", record_id AS "recordId" FROM inbox
     WHERE state = 'waiting' AND next_at < now() - $1 * interval '1 second'
       AND NOT EXISTS (SELECT 1 FROM graphile_worker._private_jobs AS job
         WHERE job.key = concat_ws('/', system, record_type, record_id) AND job.attempts < job.max_attempts)
     LIMIT 10000`,
    [lostAfterSeconds],
  );
  await queueRecords(runner, rows.map(refOf), 'replace');
  return rows.length;
}

/** Returns the id of the last event that came in; 0 before the first. */
export async function lastId(runner: Runner): Promise<string> {
  const { rows } = await runner.query<{ last: string }>('SELECT coalesce(max(id), 0) AS last FROM inbox');
  return rows[0]?.last ?? '0';
}

/**
 * Asks for the waiting events of a record to be handled at a later time; without one, at once. Jobs of one record share a key, so
 * that there is one at most, and a lane, so that they never run side by side.
 */
export async function queueRecord(runner: Runner, ref: RecordRef, runAt?: Date): Promise<void> {
  await addJobs(runner, [ref], 'replace', runAt);
}

/** As `queueRecord`, at once and for many records; a job that waits for another try keeps its time, unless it is to be replaced. */
export async function queueRecords(
  runner: Runner,
  refs: readonly RecordRef[],
  mode: 'replace' | 'preserve_run_at' = 'preserve_run_at',
): Promise<void> {
  const unique = [...new Map(refs.map((ref) => [refKey(ref), ref])).values()];
  if (unique.length > 0) await addJobs(runner, unique, mode);
}

async function addJobs(
  runner: Runner,
  refs: readonly RecordRef[],
  mode: 'replace' | 'preserve_run_at',
  runAt?: Date,
): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('handle_record', payload,
       queue_name := concat('lane-', payload->>'system', '-', abs(hashtext(key)::bigint) % ${lanes}), run_at := coalesce($3::timestamptz, now()), job_key := key, job_key_mode := $4)
     FROM unnest($1::json[], $2::text[]) AS job (payload, key)`,
    [
      refs.map(({ system, recordType, id }) => JSON.stringify({ system, recordType, id })),
      refs.map(refKey),
      runAt,
      mode,
    ],
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

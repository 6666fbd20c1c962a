import { refKey, type ChangeEvent, type RecordRef, type RunResult } from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, prepared, type Pool, type Runner, type Statement } from '../db/pool';
import { storable } from '../db/storable';
import { queueRecords } from './lanes';

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

const insertStatement = prepared(
  'insert events',
  `INSERT INTO inbox (system, source, event_id, record_type, record_id, kind, event, state, because, result, record_name)
     SELECT event->'ref'->>'system', event->>'source', event->>'id', event->'ref'->>'recordType', event->'ref'->>'id',
       event->>'kind', event, CASE WHEN result IS NULL THEN 'waiting' ELSE 'done' END, because, result, name
     FROM json_to_recordset($1::json) AS came (at integer, event jsonb, because text, result text, name text)
     ORDER BY at
     ON CONFLICT (source, event_id) WHERE state IN ('waiting', 'done', 'failed') DO NOTHING
     RETURNING id, source, event_id`,
);

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
    insertStatement([
      JSON.stringify(events.map((event, at) => ({ at, event, ...ended(event), name: nameOf(event) }))),
    ]),
  );
  const given = new Map(rows.map(({ id, source, event_id: event }) => [`${source} ${event}`, id]));
  return new Map(
    events.flatMap((event): [ReceivedEvent, string][] => {
      const id = given.get(`${event.source} ${event.id}`);
      return id === undefined ? [] : [[event, id]];
    }),
  );
}

/** What is known of events that come. */
interface SeenBefore {
  /** The events that are not in the inbox yet; the same event twice among them counts once. */
  readonly fresh: readonly ReceivedEvent[];
  /** The keys of those of their records of which an event still waits. */
  readonly waiting: Set<string>;
}

// Each is looked up for itself; OFFSET keeps the planner from reading all that waits instead.
const lookUpStatement = prepared(
  'look up',
  `SELECT at::integer,
       EXISTS (SELECT 1 FROM inbox WHERE state IN ('waiting', 'done', 'failed')
         AND (inbox.source, inbox.event_id) = (asked.source, asked.event_id) OFFSET 0) AS taken,
       EXISTS (SELECT 1 FROM inbox WHERE state = 'waiting'
         AND (inbox.system, inbox.record_type, inbox.record_id) = (asked.system, asked.type, asked.id) OFFSET 0) AS waits
     FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::text[]) WITH ORDINALITY
       AS asked (source, event_id, system, type, id, at)`,
);

/** Returns which events were not taken before, and of which records events wait. */
export async function lookUp(client: Runner, events: readonly ReceivedEvent[]): Promise<SeenBefore> {
  const { rows } = await client.query<{ at: number; taken: boolean; waits: boolean }>(
    lookUpStatement([
      events.map(({ source }) => source),
      events.map(({ id }) => id),
      events.map(({ ref }) => ref.system),
      events.map(({ ref }) => ref.recordType),
      events.map(({ ref }) => ref.id),
    ]),
  );
  const waiting = new Set<string>();
  const known = new Set<string>();
  for (const { at, taken, waits } of rows) {
    const event = events[at - 1];
    if (!event) continue;
    if (taken) known.add(`${event.source} ${event.id}`);
    if (waits) waiting.add(refKey(event.ref));
  }
  const fresh = events.filter(({ source, id }) => {
    const key = `${source} ${id}`;
    if (known.has(key)) return false;
    known.add(key);
    return true;
  });
  return { fresh, waiting };
}

/** An event that waits to be handled. */
export interface WaitingEvent {
  readonly id: string;
  readonly event: ReceivedEvent;
  readonly receivedAt: Date;
  /** How often it was tried. */
  readonly attempts: number;
  readonly nextAt: Date;
  /** Whether it is time to handle it. */
  readonly due: boolean;
  /** How often computing it ended the thread that did it. */
  readonly deaths: number;
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
  /** That system does not answer. */
  readonly away?: boolean;
  readonly result: RunResult | null;
}

/** A pause in which every process hears that a system answers again. */
const soonMs = 250;

const triedStatement = prepared(
  'note tried',
  // Whoever was refused by a system that answers again by now does not wait: it was let go before this was noted. The lock lets the two
  // follow one another, whichever comes first; it is taken before those of the events, as there.
  `WITH tried AS MATERIALIZED (
       SELECT * FROM json_to_recordset($1::json)
         AS tried (id bigint, state text, because text, "waitMs" float8, "waitsFor" text, away boolean, result text)
     ), back AS MATERIALIZED (
       SELECT system, standing FROM system_states
       WHERE system IN (SELECT "waitsFor" FROM tried WHERE away) ORDER BY system FOR SHARE
     )
     UPDATE inbox SET state = tried.state, because = tried.because,
       next_at = now() + CASE WHEN away AND "waitsFor" IN (SELECT system FROM back WHERE standing IN ('answers', 'slow'))
         THEN ${soonMs} ELSE "waitMs" END * interval '1 ms',
       waits_for = "waitsFor", result = tried.result,
       trouble = coalesce(tried.result IN ('failed', 'partly failed'), false),
       attempts = attempts + CASE WHEN "waitsFor" IS NULL THEN 1 ELSE 0 END
     FROM tried WHERE inbox.id = tried.id`,
);

/** Returns what saves the results of tries to handle events. */
export function notingTried(tried: readonly Tried[]): Statement {
  return triedStatement([JSON.stringify(tried)]);
}

interface RefRow {
  readonly system: string;
  readonly recordType: string;
  readonly recordId: string;
}

const refOf = ({ system, recordType, recordId }: RefRow): RecordRef => ({ system, recordType, id: recordId });

/**
 * Lets events that failed, wholly or in part, or wait for another try, be handled from anew. Returns their records by their ids; of any
 * other there is none.
 */
export async function reopen(
  runner: Runner,
  ids: readonly string[],
): Promise<ReadonlyMap<string, RecordRef>> {
  const { rows } = await runner.query<RefRow & { readonly id: string }>(
    `UPDATE inbox SET state = 'waiting', attempts = 0, next_at = now(), result = NULL, trouble = false
     WHERE id = ANY ($1)
       AND (state = 'failed' OR (state = 'done' AND result IN ('partly failed', 'dropped')) OR (state = 'waiting' AND attempts > 0))
     RETURNING id, system, record_type AS "recordType", record_id AS "recordId"`,
    [ids],
  );
  return new Map(rows.map((row) => [row.id, refOf(row)]));
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

/** Returns whether events wait, or are dealt with. */
export async function eventsWait(runner: Runner): Promise<boolean> {
  const { rowCount } = await runner.query(`SELECT 1 FROM inbox WHERE state = 'waiting' LIMIT 1`);
  return rowCount !== 0;
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

/** Returns the ids of the events that wait for systems, in their order. */
export async function waitingFor(runner: Runner, systems: readonly string[]): Promise<readonly string[]> {
  const { rows } = await runner.query<{ id: string }>(
    `SELECT id FROM inbox WHERE state = 'waiting' AND waits_for = ANY ($1) ORDER BY id`,
    [systems],
  );
  return rows.map(({ id }) => id);
}

/** Ends waiting events that nobody is to handle. Returns them, each with what its sender says changed. */
export async function dropEvents(
  runner: Runner,
  ids: readonly string[],
  because: string,
): Promise<readonly { readonly id: string; readonly event: ChangeEvent }[]> {
  const { rows } = await runner.query<{ id: string; event: ReceivedEvent }>(
    `UPDATE inbox SET state = 'done', result = 'dropped', because = $2, waits_for = NULL WHERE id = ANY ($1) AND state = 'waiting'
     RETURNING id, event`,
    [ids, because],
  );
  return rows.map(({ id, event }) => ({ id, event: { ...eventOf(event), changed: event.claimed } }));
}

/** Returns the id of the last event that came in; 0 before the first. */
export async function lastId(runner: Runner): Promise<string> {
  const { rows } = await runner.query<{ last: string }>('SELECT coalesce(max(id), 0) AS last FROM inbox');
  return rows[0]?.last ?? '0';
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
    [system, state, because, body === undefined ? undefined : storable(body.slice(0, keptLength))],
  );
  await pool.query(
    `DELETE FROM inbox WHERE state = $1 AND id <=
       (SELECT id FROM inbox WHERE state = $1 ORDER BY id DESC OFFSET ${keptMessages} LIMIT 1)`,
    [state],
  );
  await tell(pool, { kind: 'run', id: rows[0]?.id ?? '0', state, result: null });
}

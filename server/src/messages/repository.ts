import { v5 as uuidFrom } from 'uuid';
import {
  type FileWay,
  type JsonObject,
  type MessageState,
  type PlannedMessage,
  type RecordRef,
  withRealIds,
} from '@vast-knot/core';
import type { Client, Runner } from '../db/pool';

/** Of the two-part locks of PostgreSQL, those of messages. */
const messageLock = 4602;

/** Namespace of message ids: any fixed UUID does. */
const namespace = 'e5f1fe1e-53c9-4a7e-9f0b-6b7b0a7d5d11';

/** The messages of a run that has ended. */
interface MessagesOfRun {
  readonly runId: string;
  /** The time of its event. */
  readonly time: string;
  readonly planned: readonly PlannedMessage[];
  /** The ids that systems gave to what the run created. */
  readonly created: ReadonlyMap<string, string>;
}

/**
 * Stores the messages of a run that has ended, and asks for them to be delivered. Their ids come from the run, so that none
 * is stored twice; ids that stood for created records are now those that their systems gave.
 */
export async function storeMessages(
  runner: Runner,
  { runId, time, planned, created }: MessagesOfRun,
): Promise<void> {
  if (planned.length === 0) return;
  const messages = planned.map(({ id: plannedId, ref, type, endpoint, way, rule, data }) => {
    const id = uuidFrom(`${runId}/${plannedId}`, namespace);
    const subject = created.get(ref.id) ?? ref.id;
    const body: JsonObject = {
      specversion: '1.0',
      id,
      source: '/vast-knot',
      type,
      subject,
      time,
      datacontenttype: 'application/json',
      data: withRealIds(data, created),
    };
    // Its name stands beside it, so that a list need not read what it holds.
    const file = way === undefined ? null : data['name'];
    return { id, rule, endpoint, type, way, file, ref: { ...ref, id: subject }, body };
  });
  // A file that people take by hand is there at once.
  const { rows } = await runner.query<{ id: string; state: MessageState }>(
    `INSERT INTO messages (id, run_id, rule, rule_id, rule_version, endpoint, type, way, file, system, record_type, record_id, body, state)
     SELECT id, $1, rule->>'name', (nullif(rule->>'id', ''))::uuid, (rule->>'version')::integer, endpoint, type, way, file,
       ref->>'system', ref->>'recordType', ref->>'id', body,
       CASE WHEN way = 'download' THEN 'delivered' ELSE 'waiting' END
     FROM json_to_recordset($2::json)
       AS sent (at integer, id uuid, rule json, endpoint text, type text, way text, file text, ref json, body jsonb)
     ORDER BY at ON CONFLICT (id) DO NOTHING RETURNING id, state`,
    [runId, JSON.stringify(messages.map((message, at) => ({ at, ...message })))],
  );
  await queueMessages(
    runner,
    rows.filter(({ state }) => state === 'waiting').map(({ id }) => id),
  );
}

/**
 * Messages about one record reach one endpoint in the order in which they were sent: the oldest that still waits goes, and
 * the next one after it. Whoever looks holds the others off until the end of the transaction.
 */
export async function nextInOrder(
  client: Client,
  { endpoint, ref }: Pick<WaitingMessage, 'endpoint' | 'ref'>,
): Promise<string | undefined> {
  await client.query('SELECT pg_advisory_xact_lock($1, hashtext($2))', [
    messageLock,
    [endpoint, ref.system, ref.recordType, ref.id].join(' '),
  ]);
  const { rows } = await client.query<{ id: string }>(
    `SELECT id FROM messages WHERE state = 'waiting'
       AND (endpoint, system, record_type, record_id) = ($1, $2, $3, $4) ORDER BY seq LIMIT 1`,
    [endpoint, ref.system, ref.recordType, ref.id],
  );
  return rows[0]?.id;
}

/** Asks for messages to be delivered; there is one job for each at most. */
export async function queueMessages(runner: Runner, ids: readonly string[], at?: Date): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('deliver_message', json_build_object('id', id), run_at := coalesce($2::timestamptz, now()),
       job_key := 'message/' || id)
     FROM unnest($1::uuid[]) AS waiting (id)`,
    [ids, at],
  );
}

export interface WaitingMessage {
  readonly id: string;
  readonly runId: string;
  readonly endpoint: string;
  readonly way: FileWay | null;
  readonly ref: RecordRef;
  readonly body: JsonObject;
  readonly attempts: number;
  readonly state: MessageState;
}

export async function readMessage(runner: Runner, id: string): Promise<WaitingMessage | undefined> {
  const { rows } = await runner.query<WaitingMessage>(
    `SELECT id, run_id AS "runId", endpoint, way, body, attempts, state,
       json_build_object('system', system, 'recordType', record_type, 'id', record_id) AS ref
     FROM messages WHERE id = $1`,
    [id],
  );
  return rows[0];
}

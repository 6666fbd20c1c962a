import { v5 as uuidFrom } from 'uuid';
import type { Json, JsonObject, MessageState, PlannedMessage } from '@vast-knot/core';
import type { Runner } from '../db/pool';

/** Namespace of message ids: any fixed UUID does. */
const namespace = 'e5f1fe1e-53c9-4a7e-9f0b-6b7b0a7d5d11';

/**
 * Stores the messages of a run that has ended, and asks for them to be delivered. Their ids come from the run, so that none
 * is stored twice; ids that stood for created records are now those that their systems gave.
 */
export async function storeMessages(
  runner: Runner,
  runId: string,
  time: string,
  planned: readonly PlannedMessage[],
  created: ReadonlyMap<string, string>,
): Promise<void> {
  for (const { id: plannedId, endpoint, type, ref, data, rule } of planned) {
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
    const { rowCount } = await runner.query(
      `INSERT INTO messages (id, run_id, rule, endpoint, type, system, record_type, record_id, body, state)
       VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, 'waiting') ON CONFLICT (id) DO NOTHING`,
      [id, runId, rule, endpoint, type, ref.system, ref.recordType, subject, JSON.stringify(body)],
    );
    if (rowCount === 1) await queueMessage(runner, id, new Date());
  }
}

/** Asks for a message to be delivered; there is one job for each at most. */
export async function queueMessage(runner: Runner, id: string, at: Date): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('deliver_message', $1::json, run_at := $2::timestamptz, job_key := $3, max_attempts := 3)`,
    [JSON.stringify({ id }), at, `message/${id}`],
  );
}

export interface WaitingMessage {
  readonly id: string;
  readonly runId: string;
  readonly endpoint: string;
  readonly body: JsonObject;
  readonly attempts: number;
  readonly state: MessageState;
}

export async function readMessage(runner: Runner, id: string): Promise<WaitingMessage | undefined> {
  const { rows } = await runner.query<WaitingMessage>(
    'SELECT id, run_id AS "runId", endpoint, body, attempts, state FROM messages WHERE id = $1',
    [id],
  );
  return rows[0];
}

function withRealIds(value: Json, created: ReadonlyMap<string, string>): Json {
  if (typeof value === 'string') return created.get(value) ?? value;
  if (Array.isArray(value)) return value.map((part) => withRealIds(part as Json, created));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([name, part]) => [name, withRealIds(part ?? null, created)]),
  );
}

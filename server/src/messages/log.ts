import { v7 as uuid } from 'uuid';
import type { JsonObject, MessageDetail, MessageState, MessageSummary } from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import { fileIn } from './file';
import { queueMessages } from './repository';

/** What a message has to be for the delivery log. */
export interface MessageFilter {
  readonly state?: MessageState;
  readonly run?: string;
  /** The key of the address that it is sent to. */
  readonly endpoint?: string;
  /** Part of its type, of the rule's name, of the record's id, of the data, or of the name of a file. */
  readonly search?: string;
  /** Older than this place in the log. */
  readonly before?: string;
}

const summary = `id, run_id AS "runId", rule, endpoint, type, way, file, state, attempts, created_at AS "createdAt",
  json_build_object('system', system, 'recordType', record_type, 'id', record_id) AS ref,
  CASE WHEN state = 'waiting' THEN next_at END AS "nextAt",
  CASE WHEN state = 'waiting' AND EXISTS (
      SELECT 1 FROM messages AS earlier
      WHERE earlier.state = 'waiting' AND earlier.seq < messages.seq AND earlier.endpoint = messages.endpoint
        AND (earlier.system, earlier.record_type, earlier.record_id) = (messages.system, messages.record_type, messages.record_id))
    THEN 'Waits for an earlier message about the same record.'
    ELSE (SELECT coalesce(problem, answer) FROM message_attempts WHERE message_id = id ORDER BY attempt DESC LIMIT 1)
  END AS last`;

/** Returns messages that meet a filter, the latest first, at most so many, each with its place in the log. */
export async function listMessages(
  runner: Runner,
  { state, run, endpoint, search, before }: MessageFilter,
  limit: number,
): Promise<readonly (MessageSummary & { readonly seq: string })[]> {
  const { rows } = await runner.query<MessageSummary & { seq: string }>(
    `SELECT seq, ${summary} FROM messages
     WHERE ($1::text IS NULL OR state = $1) AND ($2::bigint IS NULL OR run_id = $2)
       AND ($3::text IS NULL
         OR concat_ws(' ', type, rule, record_id, file, CASE WHEN way IS NULL THEN body->>'data' END) ILIKE '%' || $3 || '%')
       AND ($4::bigint IS NULL OR seq < $4) AND ($6::text IS NULL OR endpoint = $6)
     ORDER BY seq DESC LIMIT $5`,
    [
      state ?? null,
      run ?? null,
      search === '' ? null : (search ?? null),
      before ?? null,
      limit,
      endpoint ?? null,
    ],
  );
  return rows;
}

/** Returns how many messages stand in a state. */
export async function countMessages(runner: Runner, state: MessageState): Promise<number> {
  const { rows } = await runner.query<{ count: number }>(
    'SELECT count(*)::integer AS count FROM messages WHERE state = $1',
    [state],
  );
  return rows[0]?.count ?? 0;
}

/** A message that was given up, with what went wrong at last. */
export interface GivenUp {
  readonly id: string;
  readonly type: string;
  readonly endpoint: string;
  readonly problem: string;
}

/** Messages that are told of at once. */
const mostTold = 500;

/** Returns the messages that were given up since a time, the oldest first. */
export async function givenUpSince(runner: Runner, since: Date): Promise<readonly GivenUp[]> {
  const { rows } = await runner.query<GivenUp>(
    `SELECT id, type, endpoint, coalesce(last.problem, '') AS problem FROM messages,
       LATERAL (SELECT at, problem FROM message_attempts WHERE message_id = id ORDER BY attempt DESC LIMIT 1) AS last
     WHERE state = 'given up' AND last.at > $1 ORDER BY seq LIMIT ${mostTold}`,
    [since],
  );
  return rows;
}

/** Rows of a file that are shown. */
const rowsShown = 50;

/** Returns a message with every try to deliver it; of a file the first rows. */
export async function readMessageDetail(runner: Runner, id: string): Promise<MessageDetail | undefined> {
  const { rows } = await runner.query<Omit<MessageDetail, 'holds'>>(
    `SELECT ${summary}, body,
       CASE WHEN edited_by IS NOT NULL THEN json_build_object('by', edited_by, 'from', edited_from) END AS edited, coalesce((SELECT json_agg(json_build_object(
         'at', at, 'status', status, 'answer', answer, 'problem', problem) ORDER BY attempt)
       FROM message_attempts WHERE message_id = id), '[]') AS tries
     FROM messages WHERE id = $1`,
    [id],
  );
  const [message] = rows;
  const file = message && message.way !== null ? fileIn(message.body) : undefined;
  if (!message || !file) return message && { ...message, holds: null };
  const { name, format, columns } = file;
  return {
    ...message,
    body: { ...message.body, data: { name, format } },
    holds: { name, format, columns, rows: file.rows.slice(0, rowsShown), count: file.rows.length },
  };
}

/** Has a message delivered once more. Returns whether there is such a message; a file that people take by hand is none. */
export async function resendMessage(pool: Pool, id: string): Promise<boolean> {
  return inTransaction(pool, async (client) => {
    const { rowCount } = await client.query(
      `UPDATE messages SET state = 'waiting', next_at = now() WHERE id = $1 AND way IS DISTINCT FROM 'download'`,
      [id],
    );
    if (rowCount !== 1) return false;
    await queueMessages(client, [id]);
    await tell(client, { kind: 'message', id, state: 'waiting' });
    return true;
  });
}

/**
 * Sends a message with other data, as a message of its own that says who edited it. Returns its id; undefined when there is no such message,
 * or it is a file: what that holds is what its rule says.
 */
export async function sendEdited(
  pool: Pool,
  id: string,
  { data, by }: { readonly data: JsonObject; readonly by: string },
): Promise<string | undefined> {
  const edited = uuid();
  return inTransaction(pool, async (client) => {
    const { rowCount } = await client.query(
      `INSERT INTO messages (id, run_id, rule, rule_id, rule_version, endpoint, type, system, record_type, record_id, body, state, edited_by, edited_from)
       SELECT $2::uuid, run_id, rule, rule_id, rule_version, endpoint, type, system, record_type, record_id,
         body || jsonb_build_object('id', ($2::uuid)::text, 'data', $3::jsonb), 'waiting', $4, id
       FROM messages WHERE id = $1 AND way IS NULL`,
      [id, edited, JSON.stringify(data), by],
    );
    if (rowCount !== 1) return undefined;
    await queueMessages(client, [edited]);
    await tell(client, { kind: 'message', id: edited, state: 'waiting' });
    return edited;
  });
}

import { refKey, type ChangeEvent, type RecordRef } from '@vast-knot/core';
import { inTransaction, type Pool, type Runner } from '../db/pool';
import { tell } from '../db/notices';

/** A change event as it came, before it is known what changed. */
export type ReceivedEvent = Omit<ChangeEvent, 'changed'> & {
  /** What the sender says changed; used only where no image of the record is at hand. */
  readonly claimed: readonly string[];
};

const lanes = 64;

/**
 * Puts an event into the inbox and a job for its record into the queue, in one transaction. An event that is there
 * already, by its source and id, is not taken again.
 */
export async function accept(pool: Pool, event: ReceivedEvent): Promise<string | undefined> {
  return inTransaction(pool, (client) => insertEvent(client, event));
}

/** As `accept`, inside a transaction. Gives the id of the run; undefined for what was taken before. */
export async function insertEvent(client: Runner, event: ReceivedEvent): Promise<string | undefined> {
  const { ref, source, kind } = event;
  const { rows } = await client.query<{ id: string }>(
    `INSERT INTO inbox (system, source, event_id, record_type, record_id, kind, event, state)
     VALUES ($1, $2, $3, $4, $5, $6, $7, 'waiting')
     ON CONFLICT (source, event_id) WHERE state IN ('waiting', 'done', 'failed') DO NOTHING RETURNING id`,
    [ref.system, source, event.id, ref.recordType, ref.id, kind, JSON.stringify(event)],
  );
  const id = rows[0]?.id;
  if (id === undefined) return undefined;
  await queueRecords(client, [ref]);
  await tell(client, { kind: 'run', id, state: 'waiting', result: null });
  return id;
}

/**
 * Asks for the waiting events of a record to be handled at a later time. Jobs of one record share a key, so that there is one
 * at most, and a lane, so that they never run at once.
 */
export async function queueRecord(runner: Runner, ref: RecordRef, runAt: Date): Promise<void> {
  await addJobs(runner, [ref], 'replace', runAt);
}

/** As `queueRecord`, at once and for many records; a job that waits for another try keeps its time. */
export async function queueRecords(runner: Runner, refs: readonly RecordRef[]): Promise<void> {
  const unique = [...new Map(refs.map((ref) => [refKey(ref), ref])).values()];
  if (unique.length > 0) await addJobs(runner, unique, 'preserve_run_at', new Date());
}

async function addJobs(
  runner: Runner,
  refs: readonly RecordRef[],
  mode: 'replace' | 'preserve_run_at',
  runAt: Date,
): Promise<void> {
  await runner.query(
    `SELECT graphile_worker.add_job('handle_record', payload, queue_name := 'lane-' || (abs(hashtext(key)::bigint) % ${lanes}),
       run_at := $3::timestamptz, job_key := key, job_key_mode := $4)
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

/** Keeps a message that could not be taken, with the reason, to be shown. */
export async function keepRejected(
  pool: Pool,
  system: string,
  state: 'malformed' | 'refused',
  because: string,
  body: string | undefined,
): Promise<void> {
  const { rows } = await pool.query<{ id: string }>(
    'INSERT INTO inbox (system, state, because, body) VALUES ($1, $2, $3, $4) RETURNING id',
    [system, state, because, body?.slice(0, keptLength).replaceAll('\0', '\ufffd')],
  );
  await pool.query(
    `DELETE FROM inbox WHERE state = $1 AND id <=
       (SELECT id FROM inbox WHERE state = $1 ORDER BY id DESC OFFSET ${keptMessages} LIMIT 1)`,
    [state],
  );
  await tell(pool, { kind: 'run', id: rows[0]?.id ?? '0', state, result: null });
}

import { v5 as uuidFrom } from 'uuid';
import { refKey, type PlannedWrite, type RecordRef, type WriteState } from '@vast-knot/core';
import type { Runner } from '../db/pool';

/** A write of a plan, as it waits in the database to be sent. */
export interface WaitingWrite {
  readonly plan: number;
  readonly seq: number;
  readonly planned: PlannedWrite;
  readonly key: string;
  readonly state: WriteState;
}

/** Namespace of our idempotency keys: any fixed UUID does. */
const namespace = '5f0c1f57-3c1e-4d0e-9a53-0d5d0d6c7a11';

/** Stores the writes of a plan before any is sent. Their keys come from run, plan and record, so that they last. */
export async function storePlan(
  runner: Runner,
  runId: string,
  plan: number,
  planned: readonly PlannedWrite[],
): Promise<readonly WaitingWrite[]> {
  const given = await createdIds(runner, runId);
  // What an earlier plan has created is there.
  const writes = planned.filter(({ creates, ref }) => !creates || !given.has(ref.id));
  const keys = writes.map(({ ref, creates }) => {
    const which = creates ? 'create' : plan;
    return uuidFrom(`${runId}/${which}/${ref.system}/${ref.recordType}/${ref.id}`, namespace);
  });
  await runner.query(
    `INSERT INTO writes (run_id, plan, seq, system, record_type, record_id, planned, key, state)
     SELECT $1, $2, seq, planned->'ref'->>'system', planned->'ref'->>'recordType', planned->'ref'->>'id', planned, key, 'planned'
     FROM unnest($3::integer[], $4::jsonb[], $5::uuid[]) AS plan (seq, planned, key)`,
    [runId, plan, writes.map((_write, seq) => seq), writes.map((write) => JSON.stringify(write)), keys],
  );
  return writes.map((each, seq) => ({ plan, seq, planned: each, key: keys[seq] ?? '', state: 'planned' }));
}

/** The writes of a run that are not settled: to be sent, or to be sent again. */
export async function waitingWrites(runner: Runner, runId: string): Promise<WaitingWrite[]> {
  const { rows } = await runner.query<WaitingWrite>(
    `SELECT plan, seq, planned, key, state FROM writes
     WHERE run_id = $1 AND state IN ('planned', 'sending', 'failed') ORDER BY plan, seq`,
    [runId],
  );
  return rows;
}

/** The ids that systems gave to the records that a run created, by those that stood for them in its plan. */
export async function createdIds(runner: Runner, runId: string): Promise<Map<string, string>> {
  const { rows } = await runner.query<{ planned: string; id: string }>(
    `SELECT planned->'ref'->>'id' AS planned, record_id AS id FROM writes
     WHERE run_id = $1 AND state = 'written' AND planned ? 'creates'`,
    [runId],
  );
  return new Map(rows.map(({ planned, id }) => [planned, id]));
}

/** The records that a run has created, as their keys. */
export async function createdRefs(runner: Runner, runId: string): Promise<Set<string>> {
  const { rows } = await runner.query<RecordRef>(
    `SELECT system, record_type AS "recordType", record_id AS id FROM writes
     WHERE run_id = $1 AND state = 'written' AND planned ? 'creates'`,
    [runId],
  );
  return new Set(rows.map(refKey));
}

export interface SettledWrite {
  readonly plan: number;
  readonly seq: number;
  readonly ref: RecordRef;
  readonly state: WriteState;
  readonly problem: string | null;
}

export async function noteWrites(
  runner: Runner,
  runId: string,
  settled: readonly SettledWrite[],
): Promise<void> {
  await runner.query(
    `UPDATE writes SET state = settled.state, problem = settled.problem, record_id = settled.id,
       written_at = CASE WHEN settled.state = 'written' THEN now() END
     FROM unnest($2::integer[], $3::integer[], $4::text[], $5::text[], $6::text[]) AS settled (plan, seq, state, problem, id)
     WHERE run_id = $1 AND writes.plan = settled.plan AND writes.seq = settled.seq`,
    [
      runId,
      settled.map(({ plan }) => plan),
      settled.map(({ seq }) => seq),
      settled.map(({ state }) => state),
      settled.map(({ problem }) => problem),
      settled.map(({ ref }) => ref.id),
    ],
  );
}

/** Marks writes as on their way, before they are sent. */
export async function noteSending(
  runner: Runner,
  runId: string,
  writes: readonly WaitingWrite[],
): Promise<void> {
  await runner.query(
    `UPDATE writes SET state = 'sending', sent_at = now()
     FROM unnest($2::integer[], $3::integer[]) AS sent (plan, seq)
     WHERE run_id = $1 AND writes.plan = sent.plan AND writes.seq = sent.seq`,
    [runId, writes.map(({ plan }) => plan), writes.map(({ seq }) => seq)],
  );
}

/** How many writes of a run stand in each state. A conflict that a later plan has taken up no longer counts. */
export async function countWrites(
  runner: Runner,
  runId: string,
): Promise<Readonly<Record<WriteState, number>>> {
  const { rows } = await runner.query<{ state: WriteState; count: number }>(
    `SELECT state, count(*)::integer AS count FROM writes WHERE run_id = $1 GROUP BY state`,
    [runId],
  );
  const counts: Record<WriteState, number> = {
    planned: 0,
    sending: 0,
    written: 0,
    failed: 0,
    conflict: 0,
    refused: 0,
    skipped: 0,
  };
  for (const { state, count } of rows) counts[state] = count;
  return counts;
}

import { v5 as uuidFrom } from 'uuid';
import { type DoneWrite, type PlannedWrite, type RecordRef, type WriteState } from '@vast-knot/core';
import { prepared, together, type Runner, type Statement } from '../db/pool';

/** A write of a plan, as it waits in the database to be sent. */
export interface WaitingWrite {
  readonly runId: string;
  readonly plan: number;
  readonly seq: number;
  readonly planned: PlannedWrite;
  readonly key: string;
  readonly state: KeptState;
  /** It was marked as on its way when its plan was stored. */
  readonly onItsWay?: boolean;
  /** It may have been sent before. */
  readonly again?: boolean;
}

/** The states that are kept with a write; that it is on its way is kept beside it. */
export type KeptState = Exclude<WriteState, 'sending'>;

/** Namespace of our idempotency keys: any fixed UUID does. */
const namespace = '5f0c1f57-3c1e-4d0e-9a53-0d5d0d6c7a11';

/** The largest plan that is held in memory while it is sent. */
const heldAtOnce = 20_000;

/** Writes stored with one statement. */
const storedAtOnce = 500;

/** Writes that are sent together; of a plan those that go first are marked as on their way when it is stored. */
export const sentAtOnce = 100;

/** Returns whether a write makes a record that was not there. */
export function creates({ change }: PlannedWrite): boolean {
  return change.kind === 'create';
}

/** A plan of a run, to be stored. */
export interface PlanToStore {
  readonly runId: string;
  /** Counted from 1. */
  readonly plan: number;
  readonly planned: readonly PlannedWrite[];
}

/**
 * Returns the writes of plans as they are stored before any is sent, those of a plan in the order in which they are: those that others
 * follow from first, and of one depth the creating ones, whose ids others may carry. Their keys come from run, plan and record, so that
 * they last.
 */
export async function writesOf(
  runner: Runner,
  plans: readonly PlanToStore[],
): Promise<readonly (readonly WaitingWrite[])[]> {
  const all: (readonly WaitingWrite[])[] = [];
  for (const plan of plans) {
    const { writes, tried } = await inOrder(runner, plan);
    all.push(writes.map(asWaiting(plan, tried)));
  }
  return all;
}

/** Returns the writes of a plan that are still to be made, in the order in which they are sent, and the creations that an earlier plan has tried. */
async function inOrder(
  runner: Runner,
  { runId, plan, planned }: PlanToStore,
): Promise<{ readonly writes: readonly PlannedWrite[]; readonly tried: ReadonlySet<string> }> {
  // What an earlier plan has created is there.
  const { given, tried } = plan > 1 ? await creationsOf(runner, runId) : noCreations;
  const writes = planned
    .filter((write) => !creates(write) || !given.has(write.change.ref.id))
    .sort((a, b) => a.depth - b.depth || Number(creates(b)) - Number(creates(a)));
  return { writes, tried };
}

/** Returns how a write waits at its place in a plan. */
const asWaiting =
  ({ runId, plan }: PlanToStore, tried: ReadonlySet<string>) =>
  (write: PlannedWrite, seq: number, [first]: readonly PlannedWrite[]): WaitingWrite => ({
    runId,
    plan,
    seq,
    planned: write,
    key: keyOf(runId, plan, write),
    state: 'planned',
    onItsWay: plan === 1 && isFirst(write, first) && seq < sentAtOnce,
    ...(creates(write) && tried.has(write.change.ref.id) && { again: true }),
  });

const plannedStatement = prepared(
  'store planned',
  `INSERT INTO planned_writes (run_id, plan, seq, planned)
   SELECT * FROM ROWS FROM (unnest($1::bigint[], $2::integer[], $3::integer[]), jsonb_array_elements($4::jsonb))
     AS plan (run, plan, seq, planned)`,
);
const writesStatement = prepared(
  'store writes',
  `INSERT INTO writes (run_id, plan, seq, system, record_type, record_id, planned_id, key, state)
   SELECT *, 'planned' FROM unnest($1::bigint[], $2::integer[], $3::integer[], $4::text[], $5::text[], $6::text[], $7::text[], $8::uuid[])`,
);
const flightsStatement = prepared(
  'note sending',
  `INSERT INTO flights (run_id, plan, seq, system, record_type, record_id, creates)
   SELECT * FROM unnest($1::bigint[], $2::integer[], $3::integer[], $4::text[], $5::text[], $6::text[], $7::boolean[])
   ON CONFLICT (run_id, plan, seq) DO UPDATE SET sent_at = now()`,
);

/** Returns what stores writes, and marks those that go first as on their way. */
export function storingWrites(writes: readonly WaitingWrite[]): readonly Statement[] {
  const [runs, plans, seqs] = placesOf(writes);
  const refs = writes.map(({ planned }) => planned.change.ref);
  const first = writes.filter(({ onItsWay }) => onItsWay);
  return [
    plannedStatement([runs, plans, seqs, JSON.stringify(writes.map(({ planned }) => planned))]),
    writesStatement([
      runs,
      plans,
      seqs,
      refs.map(({ system }) => system),
      refs.map(({ recordType }) => recordType),
      refs.map(({ id }) => id),
      writes.map(({ planned }) => (creates(planned) ? planned.change.ref.id : null)),
      writes.map(({ key }) => key),
    ]),
    notingSending(first),
  ];
}

function placesOf(writes: readonly WaitingWrite[]): readonly [string[], number[], number[]] {
  return [writes.map(({ runId }) => runId), writes.map(({ plan }) => plan), writes.map(({ seq }) => seq)];
}

/** Stores the writes of a large plan. Returns them, to be sent; undefined for so many that they are better read in parts. */
export async function storePlan(
  runner: Runner,
  plan: PlanToStore,
): Promise<readonly WaitingWrite[] | undefined> {
  const { writes: planned, tried } = await inOrder(runner, plan);
  const wait = asWaiting(plan, tried);
  const writes: WaitingWrite[] = [];
  for (let at = 0; at < planned.length; at += storedAtOnce) {
    const part = planned
      .slice(at, at + storedAtOnce)
      .map((write, offset) => wait(write, at + offset, planned));
    await together(runner, ...storingWrites(part));
    if (planned.length <= heldAtOnce) writes.push(...part);
  }
  return planned.length > heldAtOnce ? undefined : writes;
}

/** Returns whether a write is sent with the first one of its plan. */
function isFirst(write: PlannedWrite, first: PlannedWrite | undefined): boolean {
  return first !== undefined && write.depth === first.depth && creates(write) === creates(first);
}

function keyOf(runId: string, plan: number, write: PlannedWrite): string {
  const { system, recordType, id } = write.change.ref;
  const which = creates(write) ? 'create' : plan;
  return uuidFrom(`${runId}/${which}/${system}/${recordType}/${id}`, namespace);
}

/** Returns writes of a run that are not settled, to be sent or to be sent again: the next so many after one. */
export async function waitingWrites(
  runner: Runner,
  runId: string,
  after: Pick<WaitingWrite, 'plan' | 'seq'> | undefined,
  most: number,
): Promise<readonly WaitingWrite[]> {
  const { rows } = await runner.query<WaitingWrite & { readonly again: boolean }>(
    `SELECT run_id AS "runId", plan, seq, planned, key, state,
       state = 'failed' OR EXISTS (SELECT FROM flights AS flight
         WHERE (flight.run_id, flight.plan, flight.seq) = (writes.run_id, writes.plan, writes.seq)) AS again
     FROM writes JOIN planned_writes USING (run_id, plan, seq)
     WHERE run_id = $1 AND (plan, seq) > ($2, $3) AND state IN ('planned', 'failed') ORDER BY plan, seq LIMIT $4`,
    [runId, after?.plan ?? 0, after?.seq ?? -1, most],
  );
  return rows.map(({ again, ...write }) => ({ ...write, ...(again && { again }) }));
}

/** Returns everything that a run planned, in the order of its plans. */
export async function plannedOf(runner: Runner, runId: string): Promise<readonly PlannedWrite[]> {
  const { rows } = await runner.query<{ planned: PlannedWrite }>(
    'SELECT planned FROM planned_writes WHERE run_id = $1 ORDER BY plan, seq',
    [runId],
  );
  return rows.map(({ planned }) => planned);
}

/** The records that a run is to create. */
export interface Creations {
  /** What stands for them in its plans, created or not. */
  readonly awaited: ReadonlySet<string>;
  /** The ids that their systems gave to those that were created. */
  readonly given: Map<string, string>;
  /** Those that were sent, whatever came of it. */
  readonly tried: ReadonlySet<string>;
}

const noCreations: Creations = { awaited: new Set(), given: new Map(), tried: new Set() };

/** Returns what a run is to create and has created. */
export async function creationsOf(runner: Runner, runId: string): Promise<Creations> {
  const { rows } = await runner.query<{ planned: string; id: string; written: boolean; tried: boolean }>(
    `SELECT planned_id AS planned, writes.record_id AS id, state = 'written' AS written,
       state <> 'planned' OR flights.sent_at IS NOT NULL AS tried
     FROM writes LEFT JOIN flights USING (run_id, plan, seq)
     WHERE run_id = $1 AND planned_id IS NOT NULL`,
    [runId],
  );
  return {
    awaited: new Set(rows.map(({ planned }) => planned)),
    given: new Map(rows.filter(({ written }) => written).map(({ planned, id }) => [planned, id])),
    tried: new Set(rows.filter(({ tried }) => tried).map(({ planned }) => planned)),
  };
}

/** Returns what the plans of a run have done so far, or may have done. */
export async function doneSoFar(runner: Runner, runId: string): Promise<readonly DoneWrite[]> {
  const { rows } = await runner.query<RecordRef & { readonly planned: PlannedWrite; readonly made: boolean }>(
    `SELECT system, record_type AS "recordType", record_id AS id, planned, state = 'written' AS made
     FROM writes JOIN planned_writes USING (run_id, plan, seq)
     WHERE run_id = $1 AND state <> 'planned' ORDER BY plan, seq`,
    [runId],
  );
  return rows.map(({ planned, made, ...ref }) => ({ ref, change: planned.change, made }));
}

/** What came of a write. */
export interface SettledWrite {
  readonly runId: string;
  readonly plan: number;
  readonly seq: number;
  /** The record; one that was created has the id that its system gave it. */
  readonly ref: RecordRef;
  readonly state: KeptState;
  readonly problem: string | null;
}

const notedStatement = prepared(
  'note writes',
  `UPDATE writes SET state = settled.state, problem = settled.problem, record_id = settled.id,
     written_at = CASE WHEN settled.state = 'written' THEN now() END
   FROM json_to_recordset($1::json) AS settled ("runId" bigint, plan integer, seq integer, state text, problem text, id text)
   WHERE (writes.run_id, writes.plan, writes.seq) BETWEEN ($2::bigint, $3::integer, $4::integer) AND ($5::bigint, $6::integer, $7::integer)
     AND (writes.run_id, writes.plan, writes.seq) = ("runId", settled.plan, settled.seq)`,
);
const landedStatement = prepared(
  'land writes',
  `DELETE FROM flights USING unnest($1::bigint[], $2::integer[], $3::integer[]) AS settled (run, plan, seq)
   WHERE (flights.run_id, flights.plan, flights.seq) = (settled.run, settled.plan, settled.seq)`,
);

/**
 * Returns what saves the results of writes; they are no longer on their way. They stand close together in their plans, and the range in
 * which they stand keeps the database from looking through all that there are.
 */
export function notingWrites(settled: readonly SettledWrite[]): readonly Statement[] {
  const rows = settled.map(({ ref, ...write }) => ({ ...write, id: ref.id }));
  return [
    notedStatement([JSON.stringify(rows), ...rangeOf(settled)]),
    landedStatement([
      settled.map(({ runId }) => runId),
      settled.map(({ plan }) => plan),
      settled.map(({ seq }) => seq),
    ]),
  ];
}

/** Returns the first and the last place at which writes stand. */
function rangeOf(settled: readonly SettledWrite[]): unknown[] {
  const places = [...settled].sort((a, b) => {
    const [one, other] = [BigInt(a.runId), BigInt(b.runId)];
    return one === other ? a.plan - b.plan || a.seq - b.seq : one < other ? -1 : 1;
  });
  const [first, last] = [places.at(0), places.at(-1)];
  return [first?.runId, first?.plan, first?.seq, last?.runId, last?.plan, last?.seq];
}

/** Returns what marks writes as on their way, before they are sent. */
export function notingSending(writes: readonly WaitingWrite[]): Statement {
  const refs = writes.map(({ planned }) => planned.change.ref);
  return flightsStatement([
    ...placesOf(writes),
    refs.map(({ system }) => system),
    refs.map(({ recordType }) => recordType),
    refs.map(({ id }) => id),
    writes.map(({ planned }) => creates(planned)),
  ]);
}

/** Gives up what a plan of a run left open, or what was refused: it is computed anew, or, with a reason, the run was stopped. */
export async function giveUpOpen(runner: Runner, runId: string, because: string | null): Promise<void> {
  await runner.query(
    `WITH landed AS (DELETE FROM flights WHERE run_id = $1)
     UPDATE writes SET state = 'skipped', problem = $2
     WHERE run_id = $1 AND (state IN ('planned', 'failed', 'conflict') OR ($2::text IS NULL AND state = 'refused'))`,
    [runId, because],
  );
}

/** How many writes of a run stand in each state. */
export type WriteCounts = Readonly<Record<KeptState, number>>;

/** Returns counts of which nothing is counted yet. */
export function noCounts(): Record<KeptState, number> {
  return { planned: 0, written: 0, failed: 0, conflict: 0, refused: 0, skipped: 0 };
}

/** Returns how many writes of a run stand in each state. A conflict that a later plan has taken up no longer counts. */
export async function countWrites(runner: Runner, runId: string): Promise<WriteCounts> {
  const { rows } = await runner.query<{ state: KeptState; count: number }>(
    `SELECT state, count(*)::integer AS count FROM writes WHERE run_id = $1 GROUP BY state`,
    [runId],
  );
  const counts = noCounts();
  for (const { state, count } of rows) counts[state] = count;
  return counts;
}

/** Returns the first write of a run that stands in a state, with what went wrong. */
export async function firstIn(
  runner: Runner,
  runId: string,
  state: KeptState,
): Promise<{ readonly recordType: string; readonly id: string; readonly problem: string } | undefined> {
  const { rows } = await runner.query<{ recordType: string; id: string; problem: string }>(
    `SELECT record_type AS "recordType", record_id AS id, coalesce(problem, '') AS problem FROM writes
     WHERE run_id = $1 AND state = $2 ORDER BY plan, seq LIMIT 1`,
    [runId, state],
  );
  return rows[0];
}

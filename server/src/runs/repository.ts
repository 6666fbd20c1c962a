import {
  versionText,
  type ChangeEvent,
  type RecordRef,
  type Report,
  type RunResult,
  type StoredRecord,
} from '@vast-knot/core';
import { prepared, type Runner, type Statement } from '../db/pool';
import { makeDue, reopen } from '../inbox/inbox';

/** Most records kept with a run for a sample. */
export const metKept = 500;

/** Sentence of a run that only saw our own write. */
export const ownWriteBecause = 'Our own write came back; nothing else changed.';

/** Returns the sentence of a run whose event is older than what was dealt with before. */
export function lateBecause(told: number | undefined, known: number | undefined): string {
  if (told === undefined && known === undefined)
    return 'Came late: the record is not there any more. Nothing is changed by it.';
  if (told === undefined || known === undefined)
    return 'Came late: the record was removed before. Nothing is changed by it.';
  if (told === known)
    return `Came late: it tells of ${versionText(told)}, which was dealt with before. Nothing is changed by it.`;
  return `Came late: it tells of ${versionText(told)}, and ${versionText(known)} was dealt with before. Nothing is changed by it.`;
}

/** A run that begins: the event with what it changed. Of our own write that came back nothing is kept. */
interface RunBegun {
  readonly id: string;
  readonly event: ChangeEvent;
  /** Where nobody has to handle it: what it came to, and why. */
  readonly ended?: RunEnd | undefined;
}

/** What an event came to that nobody has to handle. */
export interface RunEnd {
  readonly result: 'own write' | 'late' | 'dropped';
  readonly because: string;
}

const beginStatement = prepared(
  'begin runs',
  `INSERT INTO runs (id, state, event, result, because, finished_at)
     SELECT id, CASE WHEN result IS NULL THEN 'running' ELSE 'done' END, event, result, coalesce(because, ''),
       CASE WHEN result IS NOT NULL THEN now() END
     FROM json_to_recordset($1::json) AS begun (id bigint, event jsonb, result text, because text)`,
);

/** Begins runs. Every run comes into being here. */
export async function beginRuns(runner: Runner, begun: readonly RunBegun[]): Promise<void> {
  if (begun.length > 0) await runner.query(beginningRuns(begun));
}

/** As `beginRuns`, to be run with other statements. */
export function beginningRuns(begun: readonly RunBegun[]): Statement {
  return beginStatement([
    JSON.stringify(
      begun.map(({ id, ended, event }) => ({
        id,
        ...ended,
        ...(ended?.result !== 'own write' && { event }),
      })),
    ),
  ]);
}

/** A run as it goes on: what it knows so far. */
export interface RunSoFar {
  readonly event: ChangeEvent;
  /** Null until it was computed. */
  readonly report: Report | null;
  /** How many plans were made. */
  readonly plans: number;
  /** At which try of its event the plan in force was made. */
  readonly plannedTry: number;
  /** What it came to where nobody has to handle it. */
  readonly ended?: RunEnd | undefined;
  readonly stoppedBy: string | null;
}

/** Keeps the event of a run whose record was read anew. */
export async function keepEvent(runner: Runner, id: string, event: ChangeEvent): Promise<void> {
  await runner.query('UPDATE runs SET event = $2 WHERE id = $1', [id, JSON.stringify(event)]);
}

/** What a run computed, kept before any of it is sent. */
export interface Computed {
  readonly id: string;
  readonly plan: number;
  /** The try of its event, counted from 0. */
  readonly atTry: number;
  readonly report: Report;
  /** The records that were read. Those of the first plan are kept. */
  readonly met: readonly StoredRecord[];
}

const computedStatement = prepared(
  'keep computed',
  `UPDATE runs SET report = computed.report, met = CASE WHEN plans = 0 THEN computed.met ELSE runs.met END, plans = computed.plan,
       rules_fired = ARRAY(SELECT json_array_elements_text(computed.fired)), planned_try = "atTry", computed_at = now()
     FROM json_to_recordset($1::json)
       AS computed (id bigint, report jsonb, met jsonb, plan integer, fired json, "atTry" integer)
     WHERE runs.id = computed.id`,
);

/** Returns what keeps what runs computed; their writes have a table of their own. */
export function keepingComputed(computed: readonly Computed[]): Statement {
  return computedStatement([
    JSON.stringify(
      computed.map(({ report, met, ...rest }) => ({
        ...rest,
        report: { ...report, writes: [] },
        met: met.slice(0, metKept),
        fired: firedIn(report),
      })),
    ),
  ]);
}

/** Returns the ids of the rules that wrote or failed. */
function firedIn({ rules }: Report): readonly string[] {
  const fired = rules.filter(({ verdict }) => verdict === 'writes' || verdict === 'failed');
  return [...new Set(fired.map(({ ruleId }) => ruleId))];
}

/** Where a run stands after a try. */
export interface RunNote {
  readonly id: string;
  readonly done: boolean;
  readonly result: RunResult | null;
  readonly because: string;
  /** It is taken up with the record as it is by then, though this was no try. */
  readonly anew: boolean;
}

const noteStatement = prepared(
  'note runs',
  `UPDATE runs SET state = CASE WHEN done THEN 'done' ELSE 'waiting' END, result = noted.result, because = noted.because,
       finished_at = CASE WHEN done THEN now() END, planned_try = CASE WHEN anew THEN -1 ELSE planned_try END
     FROM json_to_recordset($1::json) AS noted (id bigint, done boolean, result text, because text, anew boolean)
     WHERE runs.id = noted.id`,
);

/** Returns what saves the states of runs after a try. */
export function notingRuns(noted: readonly RunNote[]): Statement {
  return noteStatement([JSON.stringify(noted)]);
}

const stoppedStatement = prepared(
  'stopped by',
  'SELECT id, stopped_by AS by FROM runs WHERE id = ANY ($1) AND stopped_by IS NOT NULL',
);

/** Returns those of the runs of which somebody wants no more writes to be sent, with who. */
export async function stoppedBy(
  runner: Runner,
  ids: readonly string[],
): Promise<ReadonlyMap<string, string>> {
  const { rows } = await runner.query<{ id: string; by: string }>(stoppedStatement([ids]));
  return new Map(rows.map(({ id, by }) => [id, by]));
}

/**
 * Lets runs that failed be tried again: they are computed anew with the records as they are by then, and what they have written stays.
 * Returns those that are, with the records of their events; none that neither failed nor waits for another try.
 */
export async function retryRuns(
  runner: Runner,
  ids: readonly string[],
): Promise<ReadonlyMap<string, RecordRef>> {
  const reopened = await reopen(runner, ids);
  await runner.query(
    `UPDATE runs SET state = 'waiting', result = NULL, stopped_by = NULL, planned_try = -1 WHERE id = ANY ($1)`,
    [[...reopened.keys()]],
  );
  return reopened;
}

/**
 * Saves that somebody wants no more of a run's writes to be sent. Returns the record of its event; undefined when the run is at no
 * work and does not wait.
 */
export async function askToStop(runner: Runner, id: string, by: string): Promise<RecordRef | undefined> {
  const { rowCount } = await runner.query(
    `UPDATE runs SET stopped_by = $2 FROM inbox
     WHERE runs.id = $1 AND inbox.id = runs.id AND inbox.state = 'waiting'`,
    [id, by],
  );
  return rowCount === 1 ? makeDue(runner, id) : undefined;
}

/** The payload of a run: its event, the records that it met, and what came of it. */
interface RunPayload {
  readonly id: string;
  readonly event: ChangeEvent;
  readonly met: readonly StoredRecord[];
  readonly report: Report | null;
  readonly plans: number;
}

/** It has one record, whose payload can be looked at and run again; a run for many has none. */
const hasPayload = `event IS NOT NULL AND NOT event ? 'brings'`;

/** Returns the payload of a run; undefined for our own writes, for what could not be read, and for a run for many records. */
export async function readPayload(runner: Runner, id: string): Promise<RunPayload | undefined> {
  const { rows } = await runner.query<RunPayload>(
    `SELECT id, event, met, report, plans FROM runs WHERE id = $1 AND ${hasPayload}`,
    [id],
  );
  return rows[0];
}

/** Returns the event of a run; undefined for our own writes and for what could not be read. */
export async function readEventOf(runner: Runner, id: string): Promise<ChangeEvent | undefined> {
  const { rows } = await runner.query<{ event: ChangeEvent | null }>('SELECT event FROM runs WHERE id = $1', [
    id,
  ]);
  return rows[0]?.event ?? undefined;
}

/** Returns the payloads of runs that were computed, the latest first, at most so many, from before a run on. */
export async function pastPayloads(
  runner: Runner,
  { before, limit }: { readonly before: string | null; readonly limit: number },
): Promise<readonly RunPayload[]> {
  const { rows } = await runner.query<RunPayload>(
    `SELECT id, event, met, report, plans FROM runs
     WHERE ${hasPayload} AND report IS NOT NULL AND ($1::bigint IS NULL OR id < $1)
     ORDER BY id DESC LIMIT $2`,
    [before, limit],
  );
  return rows;
}

/** What kind of run is waited for. */
export interface Wanted {
  readonly system: string;
  readonly recordType: string;
  readonly kind: string | null;
}

/** Returns the first run of a kind after another one that was dealt with; our own writes that came back are none. */
export async function firstRunAfter(
  runner: Runner,
  after: string,
  { system, recordType, kind }: Wanted,
): Promise<string | null> {
  const { rows } = await runner.query<{ id: string }>(
    `SELECT inbox.id FROM inbox JOIN runs USING (id)
     WHERE inbox.id > $1 AND inbox.system = $2 AND record_type = $3 AND NOT runs.event ? 'brings' AND ($4::text IS NULL OR runs.event->>'kind' = $4)
       AND runs.report IS NOT NULL AND runs.result IS DISTINCT FROM 'own write' AND inbox.state <> 'waiting'
     ORDER BY inbox.id LIMIT 1`,
    [after, system, recordType, kind],
  );
  return rows[0]?.id ?? null;
}

/** Of so many of the newest events each is asked whether it is one that is wanted. */
const newestAsked = 20_000;

/** What an event has to be to start a rule. */
interface Starting {
  readonly system: string;
  readonly recordType: string;
  readonly kinds: readonly string[];
  /** Of an update, one of these has to have changed, as a whole or within; any field where none is named. */
  readonly watched: readonly string[];
}

/** Returns the run of the newest event that would start a rule and was dealt with; our own writes that came back are none. */
export async function lastRunStarting(
  runner: Runner,
  { system, recordType, kinds, watched }: Starting,
): Promise<string | null> {
  const { rows } = await runner.query<{ id: string }>(
    `SELECT inbox.id FROM inbox JOIN runs USING (id)
     WHERE inbox.id > (SELECT max(id) FROM inbox) - ${newestAsked} AND inbox.system = $1 AND record_type = $2
       AND runs.event->>'kind' = ANY ($3::text[]) AND NOT runs.event ? 'brings'
       AND runs.report IS NOT NULL AND runs.result IS DISTINCT FROM 'own write' AND inbox.state <> 'waiting'
       AND (runs.event->>'kind' <> 'updated' OR $4::text[] = '{}' OR EXISTS (
         SELECT 1 FROM jsonb_array_elements_text(runs.event->'changed') AS changed, unnest($4::text[]) AS watched
         WHERE changed = watched OR starts_with(changed, watched || '.') OR starts_with(watched, changed || '.')))
     ORDER BY inbox.id DESC LIMIT 1`,
    [system, recordType, kinds, watched],
  );
  return rows[0]?.id ?? null;
}

import {
  versionText,
  type ChangeEvent,
  type InboxState,
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
  readonly result: 'own write' | 'late';
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
       rules_fired = ARRAY(SELECT json_array_elements_text(computed.fired)), planned_try = "atTry"
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
 * Lets a run that failed be tried again: it is computed anew with the record as it is by then, and what it has written stays.
 * Returns the record of its event; undefined when the run neither failed nor waits for another try.
 */
export async function retryRun(runner: Runner, id: string): Promise<RecordRef | undefined> {
  const ref = await reopen(runner, id);
  if (!ref) return undefined;
  await runner.query(
    `UPDATE runs SET state = 'waiting', result = NULL, stopped_by = NULL, planned_try = -1 WHERE id = $1`,
    [id],
  );
  return ref;
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

/** Returns the payload of a run; undefined for our own writes and for what could not be read. */
export async function readPayload(runner: Runner, id: string): Promise<RunPayload | undefined> {
  const { rows } = await runner.query<RunPayload>(
    'SELECT id, event, met, report, plans FROM runs WHERE id = $1 AND event IS NOT NULL',
    [id],
  );
  return rows[0];
}

/** Returns the payloads of runs that were computed, the latest first, at most so many, from before a run on. */
export async function pastPayloads(
  runner: Runner,
  { before, limit }: { readonly before: string | null; readonly limit: number },
): Promise<readonly RunPayload[]> {
  const { rows } = await runner.query<RunPayload>(
    `SELECT id, event, met, report, plans FROM runs
     WHERE event IS NOT NULL AND report IS NOT NULL AND ($1::bigint IS NULL OR id < $1)
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
     WHERE inbox.id > $1 AND inbox.system = $2 AND record_type = $3 AND ($4::text IS NULL OR runs.event->>'kind' = $4)
       AND runs.report IS NOT NULL AND runs.result IS DISTINCT FROM 'own write' AND inbox.state <> 'waiting'
     ORDER BY inbox.id LIMIT 1`,
    [after, system, recordType, kind],
  );
  return rows[0]?.id ?? null;
}

/** What a run has to be for a list of runs. */
export interface RunFilter {
  /** Older than this run. */
  readonly before?: string;
  readonly state?: InboxState;
  readonly result?: RunResult;
  readonly system?: string;
  /** The id of a rule that wrote or failed. */
  readonly rule?: string;
  /** Whether our own writes that came back are left out. */
  readonly own?: 'shown' | 'hidden';
  /** Part of the record's id, of its values, or of the sentence about the run. */
  readonly search?: string;
}

/** A run as the list of runs shows it, with the record as it came. */
export interface RunRow {
  readonly id: string;
  readonly system: string;
  readonly kind: string | null;
  readonly state: InboxState;
  readonly attempts: number;
  readonly ref: RecordRef | null;
  readonly record: Readonly<Record<string, unknown>> | null;
  readonly changed: readonly string[];
  readonly result: RunResult | null;
  readonly because: string;
  readonly rules: readonly string[];
  readonly writes: number;
  readonly receivedAt: string;
  readonly finishedAt: string | null;
  readonly nextAt: string | null;
  /** The system that it waits for. */
  readonly waitsFor: string | null;
}

const summary = `
  inbox.id, inbox.system, inbox.kind, inbox.state, inbox.attempts,
  CASE WHEN record_id IS NULL THEN NULL ELSE json_build_object('system', inbox.system, 'recordType', record_type, 'id', record_id) END AS ref,
  coalesce(runs.event, inbox.event)->'record' AS record,
  coalesce(runs.event->'changed', '[]') AS changed,
  runs.result,
  coalesce(nullif(runs.because, ''), inbox.because, '') AS because,
  coalesce(runs.rules_fired, '{}') AS rules,
  (SELECT count(*)::integer FROM writes WHERE run_id = inbox.id AND writes.state = 'written') AS writes,
  received_at AS "receivedAt", finished_at AS "finishedAt",
  CASE WHEN inbox.state = 'waiting' AND (attempts > 0 OR waits_for IS NOT NULL) THEN next_at END AS "nextAt",
  waits_for AS "waitsFor"`;

/** Of so many of the newest runs, the values of their records are searched too. */
const newestSearched = 2000;

/** Of so many of the newest runs, each is asked whether a rule wrote in it. */
const newestWalked = 20_000;

/** A shorter text says too little to be looked up among a million. */
const shortestSearched = 3;

/** Returns everything that came in and meets a filter, the latest first, at most so many. */
export async function listRuns(runner: Runner, filter: RunFilter, limit: number): Promise<readonly RunRow[]> {
  const { sql, values } = listQuery(filter, limit);
  const { rows } = await runner.query<RunRow>(sql, values);
  return rows;
}

/** Returns the statement of a list of runs, with its values. Each condition stands on its own, so that its index is used. */
export function listQuery(
  filter: RunFilter,
  limit: number,
): { readonly sql: string; readonly values: unknown[] } {
  const values: unknown[] = [];
  const bound = (value: unknown) => `$${values.push(value)}`;
  const { before, state, result, system, rule, own, search } = filter;
  const conditions = [
    ...(before ? [`inbox.id < ${bound(before)}`] : []),
    ...(state ? [`inbox.state = ${bound(state)}`] : []),
    ...(result ? [`inbox.result = ${bound(result)}`] : []),
    ...(system ? [`inbox.system = ${bound(system)}`] : []),
    ...(own === 'hidden' || (result && result !== 'own write') ? [notOwn] : []),
  ];
  const most = bound(limit);
  const chosen = (more: readonly string[], from = 'inbox') => {
    const all = [...conditions, ...more];
    return `(SELECT inbox.id FROM ${from} ${all.length > 0 ? `WHERE ${all.join(' AND ')}` : ''} ORDER BY inbox.id DESC LIMIT ${most})`;
  };
  const fired = rule ? `rules_fired @> ARRAY[${bound(rule)}]::text[]` : '';
  const ofRule = rule ? [`inbox.id IN (SELECT runs.id FROM runs WHERE ${fired})`] : [];
  let near = '';
  let ids: string;
  if (search) {
    ids = foundBy(search, bound)
      .map(([where, from]) => chosen([...where, ...ofRule], from))
      .join(' UNION ');
  } else if (rule) {
    // A rule that writes often is found among the newest; only for a rare one all of its runs are looked up.
    const newest = before ? `${bound(before)}::bigint` : '(SELECT max(id) FROM inbox)';
    const nearest = [
      `inbox.id > ${newest} - ${newestWalked}`,
      `runs.id > ${newest} - ${newestWalked}`,
      fired,
    ];
    near = `WITH near AS MATERIALIZED ${chosen(nearest, 'inbox JOIN runs USING (id)')},
      fired AS MATERIALIZED (SELECT id FROM runs WHERE ${fired} AND (SELECT count(*) FROM near) < ${most}) `;
    ids = `SELECT id FROM near UNION SELECT id FROM ${chosen(['inbox.id IN (SELECT id FROM fired)'])} AS far`;
  } else {
    ids = chosen([]);
  }
  return {
    sql: `${near}SELECT ${summary} FROM inbox LEFT JOIN runs USING (id) WHERE inbox.id IN (${ids}) ORDER BY inbox.id DESC LIMIT ${most}`,
    values,
  };
}

const notOwn = `inbox.result IS DISTINCT FROM 'own write'`;

/** The ways in which a text is looked for: by the id of a record, in names and reasons, and in the values of the newest. */
function foundBy(
  search: string,
  bound: (value: unknown) => string,
): readonly (readonly [readonly string[], string?])[] {
  const pattern = `%${search.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`;
  const newest = `(SELECT * FROM inbox ORDER BY id DESC LIMIT ${newestSearched}) AS inbox`;
  return [
    [[`inbox.record_id = ${bound(search)}`]],
    ...(search.length < shortestSearched
      ? []
      : [[[`run_words(record_id, record_name, because) LIKE ${bound(pattern)}`, notOwn]] as const]),
    [[`lower(event->>'record') LIKE ${bound(pattern)}`], newest],
  ];
}

/** A run as its page shows it. */
export interface RunDetailRow extends RunRow {
  readonly eventId: string | null;
  readonly source: string | null;
  readonly event: ChangeEvent | null;
  readonly report: Report | null;
  readonly body: string | null;
  readonly newer: { readonly id: string; readonly result: RunResult; readonly finishedAt: string } | null;
}

/** Returns what came in under an id, and what came of it. */
export async function readRun(runner: Runner, id: string): Promise<RunDetailRow | undefined> {
  const { rows } = await runner.query<RunDetailRow>(
    `SELECT ${summary}, event_id AS "eventId", source, coalesce(runs.event, inbox.event || '{"changed": []}') AS event, report, body,
       (SELECT json_build_object('id', later.id::text, 'result', later_run.result, 'finishedAt', later_run.finished_at)
        FROM inbox AS later JOIN runs AS later_run ON later_run.id = later.id
        WHERE (later.system, later.record_type, later.record_id) = (inbox.system, inbox.record_type, inbox.record_id)
          AND later.id > inbox.id AND later_run.result IN ('wrote', 'nothing', 'partly failed')
        ORDER BY later.id DESC LIMIT 1) AS newer
     FROM inbox LEFT JOIN runs USING (id) WHERE inbox.id = $1`,
    [id],
  );
  return rows[0];
}

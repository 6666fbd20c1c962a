import type { ChangeEvent, InboxState, RecordRef, Report, RunResult } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { runsForMany, toldAs } from './toldAs';

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
  /** How people call what came in: `updated`, `reconciled`. */
  readonly kind?: string;
  /** The record of the event, or one of the many of a run. */
  readonly record?: RecordRef;
  /** A field that the event says changed; looked for in the newest alone. */
  readonly field?: string;
  /** Came at this time (ISO 8601) or later. */
  readonly from?: string;
  /** Came before this time. */
  readonly to?: string;
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
  /** How its record was called as it came, or its records together. */
  readonly recordName: string | null;
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
  inbox.id, inbox.system, ${toldAs.kind} AS kind, inbox.state, inbox.attempts,
  CASE WHEN record_id IS NULL THEN NULL ELSE json_build_object('system', inbox.system, 'recordType', record_type, 'id', record_id) END AS ref,
  coalesce(runs.event, inbox.event)->'record' AS record, record_name AS "recordName",
  ${toldAs.changed} AS changed,
  runs.result,
  coalesce(nullif(runs.because, ''), inbox.because, '') AS because,
  coalesce(runs.rules_fired, '{}') AS rules,
  (SELECT count(*)::integer FROM writes WHERE run_id = inbox.id AND writes.state = 'written') AS writes,
  received_at AS "receivedAt", finished_at AS "finishedAt",
  CASE WHEN inbox.state = 'waiting' AND (attempts > 0 OR waits_for IS NOT NULL) THEN next_at END AS "nextAt",
  waits_for AS "waitsFor"`;

/** Of so many of the newest runs, the values of their records are searched too. */
const newestSearched = 2000;

/** Of so many of the newest runs, each is asked whether a rule wrote in it, or a field changed. */
const newestWalked = 20_000;

/** Runs that are taken in at the same moment may have times that are not in their order, but never by so many. */
export const outOfOrder = 1000;

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
  const { near, ids, most, values } = fittingRuns(filter, limit);
  return {
    sql: `${near}SELECT ${summary} FROM inbox LEFT JOIN runs USING (id) WHERE inbox.id IN (${ids}) ORDER BY inbox.id DESC LIMIT ${most}`,
    values,
  };
}

/** The runs that meet a filter, as a part of a statement: what stands before it, itself, and its values. Of each its columns of `inbox` are given. */
export function fittingRuns(filter: RunFilter, limit: number, columns: readonly string[] = ['id']) {
  const values: unknown[] = [];
  const bound = (value: unknown) => `$${values.push(value)}`;
  const { before, state, result, system, rule, own, search, kind, record, field, from, to } = filter;
  const firstAt = (time: string) => `(SELECT run_at(${bound(time)}::timestamptz))`;
  const newest = () => (before ? `${bound(before)}::bigint` : '(SELECT max(id) FROM inbox)');
  const conditions = [
    ...(before ? [`inbox.id < ${bound(before)}`] : []),
    ...(state ? [`inbox.state = ${bound(state)}`] : []),
    ...(result ? [`inbox.result = ${bound(result)}`] : []),
    ...(system ? [`inbox.system = ${bound(system)}`] : []),
    ...(kind ? [`run_kind(inbox.kind, inbox.source) = ${bound(kind)}`, notOwn] : []),
    ...(record ? [ofRecord(bound(record.system), bound(record.recordType), bound(record.id))] : []),
    ...(field ? changedIn(bound(field), `${newest()} - ${newestWalked}`) : []),
    ...(from
      ? [`inbox.id >= ${firstAt(from)} - ${outOfOrder}`, `inbox.received_at >= ${bound(from)}::timestamptz`]
      : []),
    ...(to
      ? [`inbox.id <= ${firstAt(to)} + ${outOfOrder}`, `inbox.received_at < ${bound(to)}::timestamptz`]
      : []),
    ...(own === 'hidden' || (result && result !== 'own write') ? [notOwn] : []),
  ];
  const most = bound(limit);
  const of = columns.map((column) => `inbox.${column}`).join(', ');
  const chosen = (more: readonly string[], from = 'inbox') => {
    const all = [...conditions, ...more];
    return `(SELECT ${of} FROM ${from} ${all.length > 0 ? `WHERE ${all.join(' AND ')}` : ''} ORDER BY inbox.id DESC LIMIT ${most})`;
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
    const latest = newest();
    const nearest = [
      `inbox.id > ${latest} - ${newestWalked}`,
      `runs.id > ${latest} - ${newestWalked}`,
      fired,
    ];
    near = `WITH near AS MATERIALIZED ${chosen(nearest, 'inbox JOIN runs USING (id)')},
      fired AS MATERIALIZED (SELECT id FROM runs WHERE ${fired} AND (SELECT count(*) FROM near) < ${most}) `;
    ids = `SELECT * FROM near UNION SELECT * FROM ${chosen(['inbox.id IN (SELECT id FROM fired)'])} AS far`;
  } else {
    ids = chosen([]);
  }
  return { near, ids, most, values };
}

/** The runs after one in which a field changed. Both tables are told where they begin: of one that is not, all of it might be gone through. */
function changedIn(field: string, after: string): readonly string[] {
  return [
    `inbox.id > ${after}`,
    `EXISTS (SELECT 1 FROM runs WHERE runs.id = inbox.id AND runs.id > ${after} AND runs.event->'changed' ? ${field})`,
  ];
}

/** The runs of the events of a record, and those for many of which it is one. */
function ofRecord(system: string, recordType: string, id: string): string {
  return `inbox.id IN (SELECT id FROM inbox WHERE (system, record_type, record_id) = (${system}, ${recordType}, ${id})
    UNION ALL ${runsForMany(system, recordType, id)})`;
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
  readonly computedAt: string | null;
  readonly event: ChangeEvent | null;
  readonly report: Report | null;
  readonly body: string | null;
  readonly newer: { readonly id: string; readonly result: RunResult; readonly finishedAt: string } | null;
}

/** Returns what came in under an id, and what came of it. */
export async function readRun(runner: Runner, id: string): Promise<RunDetailRow | undefined> {
  const { rows } = await runner.query<RunDetailRow>(
    `SELECT ${summary}, event_id AS "eventId", source, computed_at AS "computedAt", coalesce(runs.event, inbox.event || '{"changed": []}') AS event, report, body,
       (SELECT json_build_object('id', later.id::text, 'result', later_run.result, 'finishedAt', later_run.finished_at)
        FROM inbox AS later JOIN runs AS later_run ON later_run.id = later.id
        WHERE (later.system, later.record_type, later.record_id) = (inbox.system, inbox.record_type, inbox.record_id)
          AND later.id > inbox.id AND later_run.result IN ('wrote', 'nothing', 'partly failed')
        ORDER BY later.id DESC LIMIT 1) AS newer
     FROM inbox LEFT JOIN runs USING (id) WHERE inbox.id = $1`,
    [id],
  );
  const [run] = rows;
  return run?.report ? { ...run, report: withoutRows(run.report) } : run;
}

/** Rows of a file that a page shows stand with its step; those that are written are many. */
function withoutRows(report: Report): Report {
  const messages = report.messages.map((message) =>
    message.way === undefined ? message : { ...message, data: { ...message.data, rows: [] } },
  );
  return { ...report, messages };
}

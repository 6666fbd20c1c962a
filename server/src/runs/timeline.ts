import {
  fieldsOf,
  refKey,
  type LineReport,
  type PlannedWrite,
  type RecordRef,
  type Report,
  type Step,
  type TimelineEntry,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { runsForMany, toldAs } from './toldAs';

/** Events, and writes, that are shown. */
const most = 100;

interface WriteRow {
  readonly at: string;
  readonly run: string;
  readonly planned: PlannedWrite;
  readonly report: Report | null;
  readonly source: RecordRef | null;
}

/** Returns what happened to a record, newest first: its events, and the writes of our runs with the lines that gave their values. */
export async function recordTimeline(pool: Pool, ref: RecordRef): Promise<readonly TimelineEntry[]> {
  const key = [ref.system, ref.recordType, ref.id];
  const [events, writes] = await Promise.all([
    pool.query<Extract<TimelineEntry, { kind: 'event' }>>(
      `SELECT 'event' AS kind, received_at AS at, id AS run, ${toldAs.kind} AS event,
         ${toldAs.changed} AS changed, runs.result IS NOT DISTINCT FROM 'own write' AS own,
         coalesce(nullif(runs.because, ''), inbox.because, '') AS because
       FROM (
         (SELECT id FROM inbox WHERE (system, record_type, record_id) = ($1, $2, $3) ORDER BY id DESC LIMIT ${most})
         UNION ALL (${runsForMany('$1', '$2', '$3')} ORDER BY run_id DESC LIMIT ${most})
       ) AS told JOIN inbox USING (id) LEFT JOIN runs USING (id) ORDER BY id DESC LIMIT ${most}`,
      key,
    ),
    pool.query<WriteRow>(
      `SELECT written_at AS at, run_id AS run, planned, report, coalesce(planned->'about', runs.event->'ref') AS source
       FROM (SELECT run_id, plan, seq, written_at FROM writes
         WHERE (system, record_type, record_id) = ($1, $2, $3) AND state = 'written'
         ORDER BY run_id DESC LIMIT ${most}) AS latest
       JOIN planned_writes USING (run_id, plan, seq) JOIN runs ON runs.id = run_id`,
      key,
    ),
  ]);
  return [...events.rows, ...writes.rows.map(asEntry)].sort(
    (a, b) => Number(new Date(b.at)) - Number(new Date(a.at)),
  );
}

function asEntry({ at, run, planned, report, source }: WriteRow): TimelineEntry {
  const { change, rules } = planned;
  const lines = linesOf(report, change.ref);
  const edits = fieldsOf(change).map(({ path, before = null, after = null }) => {
    const line = lines.find(({ field, verdict }) => field === path && verdict === 'changes');
    return { path, before, after, formula: line?.formula ?? null, because: line?.because ?? null };
  });
  return { kind: 'write', at, run, rules, source, change: change.kind, edits };
}

function linesOf(report: Report | null, ref: RecordRef): readonly LineReport[] {
  const steps = (report?.rules ?? []).flatMap((rule) => rule.steps.flatMap(inner));
  return steps.flatMap((step) =>
    step.kind === 'write' && refKey(step.ref) === refKey(ref) ? step.lines : [],
  );
}

function inner(step: Step): readonly Step[] {
  return step.kind === 'applied' ? step.steps.flatMap(inner) : [step];
}

import {
  refKey,
  type FieldWrite,
  type PlannedWrite,
  type RecordRef,
  type Report,
  type Step,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';

/** Writes that are looked through. */
const lookedThrough = 50;

/** The latest write of each field of a record that rules wrote: who wrote it, in which run, and why. */
export async function fieldWrites(pool: Pool, ref: RecordRef): Promise<readonly FieldWrite[]> {
  const { rows } = await pool.query<{
    run: string;
    at: string;
    planned: PlannedWrite;
    report: Report | null;
  }>(
    `SELECT run_id AS run, written_at AS at, planned, report FROM (
       SELECT run_id, plan, seq, written_at FROM writes
       WHERE system = $1 AND record_type = $2 AND record_id = $3 AND state = 'written'
       ORDER BY run_id DESC LIMIT ${lookedThrough}) AS latest
     JOIN planned_writes USING (run_id, plan, seq) JOIN runs ON runs.id = run_id
     ORDER BY written_at DESC`,
    [ref.system, ref.recordType, ref.id],
  );
  const latest = new Map<string, FieldWrite>();
  for (const { run, at, planned, report } of rows) {
    for (const { path, before = null, after = null } of planned.edits) {
      if (latest.has(path)) continue;
      const because = becauseOf(report, planned.ref, path);
      latest.set(path, { path, before, after, rules: planned.rules, run, at, because });
    }
  }
  return [...latest.values()];
}

function becauseOf(report: Report | null, ref: RecordRef, path: string): string | null {
  const steps = (report?.rules ?? []).flatMap((rule) => rule.steps.flatMap(inner));
  for (const step of steps) {
    if (step.kind !== 'write' || refKey(step.ref) !== refKey(ref)) continue;
    const line = step.lines.find(({ field, verdict }) => field === path && verdict === 'changes');
    if (line) return line.because;
  }
  return null;
}

function inner(step: Step): readonly Step[] {
  return step.kind === 'applied' ? step.steps.flatMap(inner) : [step];
}

import {
  expectAll,
  outcomeOf,
  withOwnRecord,
  type ChangeEvent,
  type Expected,
  type PlannedWrite,
  type Report,
  type Sample,
  type StoredRecord,
} from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { metKept } from '../runs/plan';

/** The event of a run with the records that it met, and its outcome as what is expected from now on. */
export async function takeFromRun(
  runner: Runner,
  runId: string,
): Promise<Pick<Sample, 'event' | 'records' | 'expected'> | undefined> {
  const { rows } = await runner.query<{
    event: ChangeEvent;
    met: StoredRecord[];
    report: Report | null;
    plans: number;
  }>('SELECT event, met, report, plans FROM runs WHERE id = $1 AND event IS NOT NULL', [runId]);
  const [run] = rows;
  if (!run) return undefined;
  const { event, met, report, plans } = run;
  const whole = report !== null && report.waiting.length === 0 && met.length < metKept;
  return {
    event,
    records: withOwnRecord(event, met),
    // A rule that waits acts at once in a replay, and records that were too many to keep cannot be written there.
    ...(whole && plans === 1 && { expected: await outcomeOfRun(runner, runId, report) }),
  };
}

async function outcomeOfRun(runner: Runner, runId: string, report: Report): Promise<Expected> {
  const { rows } = await runner.query<{ planned: PlannedWrite }>(
    'SELECT planned FROM planned_writes WHERE run_id = $1 ORDER BY plan, seq',
    [runId],
  );
  return expectAll(outcomeOf({ ...report, writes: rows.map(({ planned }) => planned) }));
}

import {
  expectAll,
  outcomeOf,
  withOwnRecord,
  type Expected,
  type Report,
  type Sample,
} from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { plannedOf } from '../runs/plan';
import { metKept, readPayload } from '../runs/repository';

/** Returns the event of a run with the records that it met, and its outcome as what is expected from now on. */
export async function takeFromRun(
  runner: Runner,
  runId: string,
): Promise<Pick<Sample, 'event' | 'records' | 'expected'> | undefined> {
  const run = await readPayload(runner, runId);
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
  return expectAll(outcomeOf({ ...report, writes: await plannedOf(runner, runId) }));
}

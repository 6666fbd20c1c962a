import { setTimeout } from 'node:timers/promises';
import { WorkspaceError } from '@vast-knot/core';
import type { JobStep } from '../jobs/repository';

/** A system that cannot be asked now is asked again after so long; who wants the job to stop is heard that soon. */
const againMs = 1000;

/** Takes a step of a job. Where a system cannot be asked now, the job stays where it is and waits for it, however long that is away. */
export async function holding(
  stays: JobStep,
  step: () => Promise<JobStep & { readonly ended: boolean }>,
): Promise<JobStep & { readonly ended: boolean }> {
  try {
    return await step();
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError) || !thrown.problem.retry) throw thrown;
    await setTimeout(againMs);
    return { ...stays, waits: thrown.problem.message, ended: false };
  }
}

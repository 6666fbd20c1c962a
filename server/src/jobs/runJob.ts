import { WorkspaceError, type Json } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import type { RegistrySource } from '../registry/registry';
import { keepStep, layDown, takeJob, type JobStep } from './repository';

/** What the work of a job is done with. */
interface JobParts {
  readonly pool: Pool;
  readonly registry: RegistrySource;
}

/** Work that goes on in small steps, a second or two each. Each returns what is kept: from there it can be taken up again. */
interface Work {
  step(): Promise<JobStep & { readonly ended: boolean }>;
}

/** One kind of long work. */
export interface JobKind {
  readonly kind: string;
  /** Takes the work up: from the beginning where `memory` is null, and from where it stood otherwise. */
  open(asked: Json, memory: Json, parts: JobParts): Promise<Work>;
}

/** Ends a job for good, with the sentence that says why: trying again would come to the same. */
export class JobEnds extends Error {}

/** A process that does jobs. */
export interface JobRunner extends JobParts {
  /** The name of the process, the same for as long as it lives. */
  readonly owner: string;
  readonly kinds: readonly JobKind[];
  /** Whether the process is to stop: its jobs are then laid down for another one. */
  readonly stopping: () => boolean;
  /** Whether the queue gives the job up when it fails once more; before that, a failure may be that of a database that restarts. */
  readonly lastTry: boolean;
}

/**
 * Does a job until it ends, is paused or cancelled, or the process stops. What each step leaves is kept in the database, so that
 * after a crash another process goes on from there.
 *
 * @throws what the work throws, so that the queue tries it again a little later; at the last try the job has failed instead.
 */
export async function runJob(id: string, runner: JobRunner): Promise<void> {
  const { pool, owner, kinds, stopping, lastTry } = runner;
  const job = await takeJob(pool, id, owner);
  if (!job) return;
  const kind = kinds.find((each) => each.kind === job.kind);
  if (!kind) {
    await layDown(pool, id, owner, { state: 'failed', problem: `This version does no “${job.kind}”.` });
    return;
  }
  try {
    const work = await kind.open(job.asked, job.memory, runner);
    for (;;) {
      const { ended, ...step } = await work.step();
      const wish = await keepStep(pool, id, owner, step);
      if (wish === 'gone') return;
      if (ended) return await layDown(pool, id, owner, { state: 'done' });
      if (wish === 'cancel') return await layDown(pool, id, owner, { state: 'cancelled' });
      if (wish === 'pause') return await layDown(pool, id, owner, { state: 'paused' });
      if (stopping()) return await layDown(pool, id, owner, { state: 'waiting' });
    }
  } catch (thrown) {
    if (!lastTry && !isFinal(thrown)) throw thrown;
    const problem = thrown instanceof Error ? thrown.message : String(thrown);
    await layDown(pool, id, owner, { state: 'failed', problem });
  }
}

function isFinal(thrown: unknown): boolean {
  return thrown instanceof JobEnds || (thrown instanceof WorkspaceError && !thrown.problem.retry);
}

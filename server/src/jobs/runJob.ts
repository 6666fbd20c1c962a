import type { Json } from '@vast-knot/core';
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

/** A process that does jobs. */
export interface JobRunner extends JobParts {
  /** The name of the process, the same for as long as it lives. */
  readonly owner: string;
  readonly kinds: readonly JobKind[];
  /** Whether the process is to stop: its jobs are then laid down for another one. */
  readonly stopping: () => boolean;
}

/**
 * Does a job until it ends, is paused or cancelled, or the process stops. What each step leaves is kept in the database, so that
 * after a crash another process goes on from there.
 */
export async function runJob(id: string, runner: JobRunner): Promise<void> {
  const { pool, owner, kinds, stopping } = runner;
  const job = await takeJob(pool, id, owner);
  if (!job) return;
  const kind = kinds.find((each) => each.kind === job.kind);
  if (!kind) {
    await layDown(pool, id, { state: 'failed', problem: `This version does no “${job.kind}”.` });
    return;
  }
  try {
    const work = await kind.open(job.asked, job.memory, runner);
    for (;;) {
      const { ended, ...step } = await work.step();
      const wish = await keepStep(pool, id, owner, step);
      if (wish === 'gone') return;
      if (ended) return await layDown(pool, id, { state: 'done' });
      if (wish === 'cancel') return await layDown(pool, id, { state: 'cancelled' });
      if (wish === 'pause') return await layDown(pool, id, { state: 'paused' });
      if (stopping()) return await layDown(pool, id, { state: 'waiting' });
    }
  } catch (thrown) {
    const problem = thrown instanceof Error ? thrown.message : String(thrown);
    await layDown(pool, id, { state: 'failed', problem });
  }
}

import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { WorkspaceError, type Problem } from '@vast-knot/core';
import type { Registry } from '../registry/registry';
import { answer, openDoor } from './door';
import { tasks, type TaskKind, type Tasks } from './tasks';

/** A task took longer or needed more memory than one may. */
export class BeyondLimits extends Error {}

/** Computes what persons typed, away from the thread that answers. */
export interface Computer {
  /**
   * Does a task with the definitions of a registry.
   *
   * @throws BeyondLimits when it takes too long or too much memory
   * @throws WorkspaceError when a system does not give its records
   */
  run<K extends TaskKind>(kind: K, asked: Tasks[K]['asked'], registry: Registry): Promise<Tasks[K]['answer']>;
  stop(): Promise<void>;
}

/** Computes in the process itself, where there are no built files for threads. */
export const here: Computer = {
  run: async (kind, asked, registry) =>
    tasks[kind](asked, { ...registry, endpoints: new Set(registry.endpoints.keys()) }, openDoor(registry)),
  stop: () => Promise.resolve(),
};

/** What a task may take. */
export interface Limits {
  readonly threads: number;
  readonly seconds: number;
  readonly megabytes: number;
}

/** Threads that do tasks; one that goes beyond the limits is ended, and another takes its place. */
export class ThreadComputer implements Computer {
  private readonly threads: Piscina;

  constructor(
    file: URL,
    private readonly limits: Limits,
  ) {
    this.threads = new Piscina({
      filename: file.href,
      minThreads: 1,
      maxThreads: limits.threads,
      idleTimeout: 60_000,
      maxQueue: 1000,
      resourceLimits: { maxOldGenerationSizeMb: limits.megabytes },
    });
    // Ended threads are told of by the tasks that they did.
    this.threads.on('error', () => undefined);
  }

  async run<K extends TaskKind>(
    kind: K,
    asked: Tasks[K]['asked'],
    registry: Registry,
  ): Promise<Tasks[K]['answer']> {
    const { port1: ours, port2: port } = new MessageChannel();
    answer(ours, registry);
    try {
      const done = (await this.threads.run(
        { kind, asked, stamp: registry.stamp, port },
        { transferList: [port], signal: AbortSignal.timeout(this.limits.seconds * 1000) },
      )) as { readonly answer: Tasks[K]['answer'] } | { readonly problem: Problem };
      if ('problem' in done) throw new WorkspaceError(done.problem);
      return done.answer;
    } catch (thrown) {
      throw beyond(thrown, this.limits) ?? thrown;
    } finally {
      ours.close();
    }
  }

  stop(): Promise<void> {
    return this.threads.destroy();
  }
}

/** Returns what an ended task is told as; undefined for what it failed with by itself. Read by name, since it may come from another realm. */
function beyond(thrown: unknown, { seconds, megabytes }: Limits): BeyondLimits | undefined {
  if (typeof thrown !== 'object' || thrown === null) return undefined;
  if ('name' in thrown && thrown.name === 'AbortError')
    return new BeyondLimits(`It took more than ${seconds} seconds.`);
  return 'code' in thrown && thrown.code === 'ERR_WORKER_OUT_OF_MEMORY'
    ? new BeyondLimits(`It needed more than ${megabytes} MB of memory.`)
    : undefined;
}

import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { WorkspaceError, type Problem } from '@vast-knot/core';
import type { Config } from '../config/config';
import type { Registry } from '../registry/registry';
import { answer, openDoor } from './door';
import { Stopwatch } from './stopwatch';
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

/** What a task may take; the time in which it waits for a system does not count. */
type Limits = Config['computeLimits'];

/** Tasks that ask no system for records. */
const alone: ReadonlySet<TaskKind> = new Set(['check', 'learn', 'bundle', 'carried']);

/** Tasks that ask systems for records wait most of their time; so many threads hold them for each of the others. */
const waitingThreads = 4;

/**
 * Threads that do tasks; one that goes beyond the limits is ended, and another takes its place. Tasks that read from systems have
 * threads of their own, so that a system which does not answer holds up nobody's findings. The first thread of each is opened when there is
 * something for it: most workers never need one.
 */
export class ThreadComputer implements Computer {
  private computing: Piscina | undefined;
  private reading: Piscina | undefined;

  constructor(
    private readonly file: URL,
    private readonly limits: Limits,
  ) {}

  async run<K extends TaskKind>(
    kind: K,
    asked: Tasks[K]['asked'],
    registry: Registry,
  ): Promise<Tasks[K]['answer']> {
    const { port1: ours, port2: port } = new MessageChannel();
    const end = new AbortController();
    const clock = new Stopwatch(this.limits.seconds * 1000, () => end.abort());
    answer(ours, registry, (computes) => (computes ? clock.go() : clock.rest()));
    const threads = this.threadsFor(kind);
    try {
      const done = (await threads.run(
        { kind, asked, stamp: registry.stamp, port },
        { transferList: [port], signal: end.signal },
      )) as { readonly answer: Tasks[K]['answer'] } | { readonly problem: Problem };
      if ('problem' in done) throw new WorkspaceError(done.problem);
      return done.answer;
    } catch (thrown) {
      throw beyond(thrown, this.limits) ?? thrown;
    } finally {
      clock.rest();
      ours.close();
    }
  }

  async stop(): Promise<void> {
    await Promise.all([this.computing?.destroy(), this.reading?.destroy()]);
  }

  private threadsFor(kind: TaskKind): Piscina {
    const { file, limits } = this;
    return alone.has(kind)
      ? (this.computing ??= open(file, limits.threads, limits))
      : (this.reading ??= open(file, limits.threads * waitingThreads, limits));
  }
}

function open(file: URL, maxThreads: number, { megabytes }: Limits): Piscina {
  const threads = new Piscina({
    filename: file.href,
    // Without one that is always there, tasks that wait are forgotten when the threads before them were ended.
    minThreads: 1,
    maxThreads,
    idleTimeout: 60_000,
    maxQueue: 1000,
    resourceLimits: { maxOldGenerationSizeMb: megabytes },
  });
  // Ended threads are told of by the tasks that they did.
  threads.on('error', () => undefined);
  return threads;
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

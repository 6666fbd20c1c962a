import { Worker as Thread } from 'node:worker_threads';
import type { Logger } from 'pino';
import type { Config } from '../config/config';
import type { Pool } from '../db/pool';
import { noteDeaths } from '../inbox/deaths';

/** What a worker thread tells. */
export type Told =
  | { readonly is: 'ready' }
  | { readonly is: 'alive' }
  | { readonly is: 'stopped' }
  | { readonly is: 'computing'; readonly event: string; readonly computes: boolean };

/** What a worker thread is asked. */
export type Wish = 'are you alive' | 'stop';

/** What a worker thread may take. */
export interface ThreadLimits {
  /** How long it may answer nothing. */
  readonly silentMs: number;
  readonly megabytes: number;
}

interface Supervising {
  readonly file: URL;
  readonly config: Config;
  readonly pool: Pool;
  readonly log: Logger;
  readonly limits: ThreadLimits;
}

/** Pause before a thread that ended is followed by another, which grows while one after the other ends at once. */
const pauseMs = 200;
const longestPauseMs = 10_000;

/**
 * Runs the worker in a thread of its own, away from the one that answers. A thread that runs out of memory, or answers nothing for too
 * long, is ended and followed by another; what it computed at that moment is noted, so that an event that ends threads is parked.
 */
export class Supervisor {
  private thread: Thread | undefined;
  private readonly computing = new Set<string>();
  private heardAt = 0;
  private stopping = false;
  private ended = 0;
  private readonly watch: NodeJS.Timeout;
  private noting: Promise<void> = Promise.resolve();

  private constructor(private readonly parts: Supervising) {
    const { silentMs } = parts.limits;
    this.watch = setInterval(() => this.look(silentMs), silentMs / 4);
  }

  /** Starts the first thread and returns when it takes work. */
  static async start(parts: Supervising): Promise<Supervisor> {
    const supervisor = new Supervisor(parts);
    try {
      await supervisor.open();
    } catch (thrown) {
      clearInterval(supervisor.watch);
      throw thrown;
    }
    return supervisor;
  }

  /** Lets the thread finish what it is at, and ends it. */
  async stop(): Promise<void> {
    this.stopping = true;
    clearInterval(this.watch);
    const { thread } = this;
    if (thread) {
      const gone = new Promise((done) => thread.once('exit', done));
      thread.postMessage('stop' satisfies Wish);
      await gone;
    }
    await this.noting;
  }

  private open(): Promise<void> {
    const { file, config, limits, log } = this.parts;
    const thread = new Thread(file, {
      workerData: config,
      resourceLimits: { maxOldGenerationSizeMb: limits.megabytes },
    });
    this.thread = thread;
    this.heardAt = Date.now();
    return new Promise((ready, fail) => {
      let begun = false;
      thread.on('message', (told: Told) => {
        this.heardAt = Date.now();
        if (told.is === 'ready') {
          begun = true;
          ready();
        }
        if (told.is === 'computing') {
          if (told.computes) this.computing.add(told.event);
          else {
            this.computing.delete(told.event);
            this.ended = 0;
          }
        }
      });
      thread.on('error', (error) => {
        log.error(error, 'the worker thread broke');
        if (!begun) fail(error);
      });
      thread.on('exit', () => {
        if (this.thread === thread) this.thread = undefined;
        if (!begun) fail(new Error('the worker thread ended before it was ready'));
        if (!this.stopping && begun) this.follow();
      });
    });
  }

  /** Notes what the ended thread was at, and starts another. */
  private follow(): void {
    const { pool, log } = this.parts;
    const events = [...this.computing];
    this.computing.clear();
    const pause = Math.min(longestPauseMs, pauseMs * 2 ** this.ended++);
    log.error({ events }, 'the worker thread ended; another is started');
    const again = async (): Promise<void> => {
      if (events.length > 0) await noteDeaths(pool, events);
      await new Promise((done) => setTimeout(done, pause));
      if (!this.stopping) await this.open();
    };
    this.noting = again().catch((error: unknown) => {
      log.error(error, 'the worker thread could not be started');
      if (!this.stopping) this.follow();
    });
  }

  private look(silentMs: number): void {
    const { thread } = this;
    if (!thread) return;
    if (Date.now() - this.heardAt > silentMs) {
      this.parts.log.error('the worker thread answers nothing; it is ended');
      void thread.terminate();
    } else thread.postMessage('are you alive' satisfies Wish);
  }
}

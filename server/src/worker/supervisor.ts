import { Worker as Thread } from 'node:worker_threads';
import type { Logger } from 'pino';
import type { Config } from '../config/config';
import type { Pool } from '../db/pool';
import { noteDeaths } from '../inbox/deaths';

/** What a worker thread tells. */
export type Told =
  | { readonly is: 'ready' }
  | { readonly is: 'alive' }
  | { readonly is: 'computing'; readonly event: string; readonly computes: boolean };

/** What a worker thread is asked. */
export type Wish = 'are you alive' | 'stop';

interface Supervising {
  readonly file: URL;
  readonly config: Config;
  readonly pool: Pool;
  readonly log: Logger;
}

/** Pause before a thread that ended is followed by another, which grows while one after the other ends at once. */
const pauseMs = 200;
const longestPauseMs = 2000;

/** Questions without an answer after which a thread is taken to hang. */
const mostUnanswered = 4;

/**
 * Runs the worker in a thread of its own, away from the one that answers. A thread that runs out of memory, or answers nothing for too
 * long, is ended and followed by another; what it computed at that moment is noted, so that an event that ends threads is parked. A
 * thread that breaks otherwise, such as with its connection to the database, is followed as well, and no event is suspected.
 */
export class Supervisor {
  private thread: Thread | undefined;
  private readonly computing = new Set<string>();
  /** Events that are to be noted as those at which a thread ended; kept until the database has them. */
  private suspected: readonly string[] = [];
  /**
   * Questions that the thread has not answered. They are counted, and not the time: a machine that slept, or a busy process of
   * ours, asks nothing meanwhile.
   */
  private unanswered = 0;
  private stopping = false;
  private ended = 0;
  private readonly watch: NodeJS.Timeout;
  private following: Promise<void> = Promise.resolve();

  private constructor(private readonly parts: Supervising) {
    this.watch = setInterval(() => this.look(), parts.config.workerLimits.silentMs / mostUnanswered);
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

  /** Lets the thread finish what it is at, and ends it; one that hangs is still ended when it has been silent for too long. */
  async stop(): Promise<void> {
    this.stopping = true;
    const { thread } = this;
    if (thread) {
      const gone = new Promise((done) => thread.once('exit', done));
      thread.postMessage('stop' satisfies Wish);
      await gone;
    }
    clearInterval(this.watch);
    await this.following;
  }

  private open(): Promise<void> {
    const { file, config, log } = this.parts;
    const thread = new Thread(file, {
      workerData: config,
      resourceLimits: { maxOldGenerationSizeMb: config.workerLimits.megabytes },
    });
    this.thread = thread;
    this.unanswered = 0;
    return new Promise((ready, fail) => {
      let begun = false;
      let outOfMemory = false;
      thread.on('message', (told: Told) => {
        this.unanswered = 0;
        if (told.is === 'ready') {
          begun = true;
          ready();
        }
        if (told.is === 'computing') this.note(told);
      });
      thread.on('error', (error) => {
        log.error(error, 'the worker thread broke');
        outOfMemory = 'code' in error && error.code === 'ERR_WORKER_OUT_OF_MEMORY';
        fail(error);
      });
      thread.on('exit', () => {
        if (this.thread === thread) this.thread = undefined;
        if (outOfMemory || this.hangs) this.suspected = [...this.suspected, ...this.computing];
        this.computing.clear();
        if (!begun) fail(new Error('the worker thread ended before it was ready'));
        else if (!this.stopping) this.follow();
      });
    });
  }

  private get hangs(): boolean {
    return this.unanswered >= mostUnanswered;
  }

  private note({ event, computes }: Extract<Told, { is: 'computing' }>): void {
    if (computes) this.computing.add(event);
    else {
      this.computing.delete(event);
      this.ended = 0;
    }
  }

  /** Notes what the ended thread was at, and starts another; tries again for as long as that fails. */
  private follow(): void {
    const { pool, log } = this.parts;
    const pause = Math.min(longestPauseMs, pauseMs * 2 ** this.ended++);
    log.error({ events: this.suspected }, 'the worker thread ended; another is started');
    const again = async (): Promise<void> => {
      await new Promise((done) => setTimeout(done, pause));
      if (this.stopping) return;
      if (this.suspected.length > 0) await noteDeaths(pool, this.suspected);
      this.suspected = [];
      await this.open();
    };
    this.following = again().catch((error: unknown) => {
      log.error(error, 'the worker thread could not be started');
      if (!this.stopping) this.follow();
    });
  }

  private look(): void {
    const { thread } = this;
    if (!thread) return;
    if (this.hangs) {
      this.parts.log.error('the worker thread answers nothing; it is ended');
      void thread.terminate();
      return;
    }
    this.unanswered++;
    thread.postMessage('are you alive' satisfies Wish);
  }
}

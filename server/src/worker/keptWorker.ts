import type { Logger } from 'pino';

/** Something that works until it breaks. */
interface Working {
  stop(): Promise<void>;
}

/** Pause before a worker that broke is started anew. */
const pauseMs = 500;

/** Keeps a worker at work in this process: one that lost the database is followed by another as soon as that is back. */
export class KeptWorker {
  private current: Working | undefined;
  private stopping = false;
  private following: Promise<void> = Promise.resolve();

  private constructor(
    private readonly open: (broken: (why: Error) => void) => Promise<Working>,
    private readonly log: Logger,
  ) {}

  /** Starts the first worker; `open` is told what to call when it breaks. */
  static async start(
    open: (broken: (why: Error) => void) => Promise<Working>,
    log: Logger,
  ): Promise<KeptWorker> {
    const kept = new KeptWorker(open, log);
    kept.current = await open((why) => kept.follow(why));
    return kept;
  }

  async stop(): Promise<void> {
    this.stopping = true;
    await this.following;
    await this.current?.stop();
  }

  private follow(why: Error): void {
    if (this.stopping) return;
    this.log.error(why, 'the worker broke; another is started');
    this.following = this.following.then(async () => {
      const broken = this.current;
      this.current = undefined;
      await broken
        ?.stop()
        .catch((thrown: unknown) => this.log.error(thrown, 'the worker that broke did not stop'));
      while (!this.stopping && !this.current) {
        await new Promise((done) => setTimeout(done, pauseMs));
        this.current = await this.open((next) => this.follow(next)).catch((thrown: unknown) => {
          this.log.error(thrown, 'the worker could not be started');
          return undefined;
        });
      }
    });
  }
}

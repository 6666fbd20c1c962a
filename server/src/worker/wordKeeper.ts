import { setTimeout } from 'node:timers/promises';
import type { Logger } from 'pino';
import type { Pool } from '../db/pool';
import { keepWords } from '../images/words';
import { eventsWait } from '../inbox/inbox';
import { anyAtWork } from '../jobs/repository';

/** So old may the words be by which values are found, while there is nothing else to do. */
const keepMs = 2000;
/** While events wait, or a job is at work, it rests so many times as long as it worked: an index of parts of words costs as much as dealing with an event. */
const restsWhileBusy = 20;

/** Keeps the words of images that changed, a moment after they did: no event waits for it. */
export class WordKeeper {
  private readonly timer: NodeJS.Timeout;
  private keeping: Promise<void> = Promise.resolve();
  private readonly stopping = new AbortController();
  private busy = false;

  constructor(
    private readonly pool: Pool,
    private readonly log: Logger,
    private readonly rest: (ms: number, stopping: AbortSignal) => Promise<void> = resting,
  ) {
    this.timer = setInterval(() => {
      if (!this.busy) this.keeping = this.keep();
    }, keepMs);
  }

  async stop(): Promise<void> {
    this.stopping.abort();
    clearInterval(this.timer);
    await this.keeping;
  }

  /** Keeps all that there is to be kept. */
  async keep(): Promise<void> {
    this.busy = true;
    try {
      for (let more = true; more && !this.stopping.signal.aborted;) {
        const began = performance.now();
        more = await keepWords(this.pool);
        if ((await eventsWait(this.pool)) || (await anyAtWork(this.pool)))
          await this.rest(restsWhileBusy * (performance.now() - began), this.stopping.signal);
      }
    } catch (thrown) {
      // What was not kept is kept the next time.
      this.log.debug(thrown, 'the words of images were not kept');
    } finally {
      this.busy = false;
    }
  }
}

async function resting(milliseconds: number, signal: AbortSignal): Promise<void> {
  await setTimeout(milliseconds, undefined, { signal }).catch(() => undefined);
}

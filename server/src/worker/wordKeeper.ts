import type { Logger } from 'pino';
import type { Pool } from '../db/pool';
import { keepWords } from '../images/words';

/** So old may the words be by which values are found. */
const keepMs = 2000;

/** Keeps the words of images that changed, a moment after they did: no event waits for it. */
export class WordKeeper {
  private readonly timer: NodeJS.Timeout;
  private keeping: Promise<void> = Promise.resolve();
  private stopped = false;
  private busy = false;

  constructor(
    private readonly pool: Pool,
    private readonly log: Logger,
  ) {
    this.timer = setInterval(() => {
      if (!this.busy) this.keeping = this.keep();
    }, keepMs);
  }

  async stop(): Promise<void> {
    this.stopped = true;
    clearInterval(this.timer);
    await this.keeping;
  }

  private async keep(): Promise<void> {
    this.busy = true;
    try {
      while (!this.stopped && (await keepWords(this.pool)));
    } catch (thrown) {
      // What was not kept is kept the next time.
      this.log.debug(thrown, 'the words of images were not kept');
    } finally {
      this.busy = false;
    }
  }
}

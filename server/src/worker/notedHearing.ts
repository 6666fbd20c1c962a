import type { Logger } from 'pino';
import type { Connector } from '../connector/connector';
import type { Pool } from '../db/pool';
import type { RegistrySource } from '../registry/registry';
import { queueListening } from '../systems/connecting';

/** So often it is looked whether all are heard that note changes. */
const lookMs = 5000;

interface Heard {
  readonly connector: Connector;
  readonly end: () => void;
}

/** Hears of systems that note changes by themselves, and lets those be fetched at once. What is not heard is fetched every minute. */
export class NotedHearing {
  private readonly heard = new Map<string, Heard>();
  private readonly timer: NodeJS.Timeout;
  private looking: Promise<void>;
  private stopped = false;

  constructor(
    private readonly pool: Pool,
    private readonly registry: RegistrySource,
    private readonly log: Logger,
  ) {
    this.timer = setInterval(() => {
      this.looking = this.looking.then(() => this.look());
    }, lookMs);
    this.looking = this.look();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    clearInterval(this.timer);
    await this.looking;
    for (const { end } of this.heard.values()) end();
  }

  /** Hears those that are not heard yet, as they are reached by now, and leaves those that are reached no more. */
  private async look(): Promise<void> {
    try {
      const { connectors } = await this.registry.get();
      for (const [key, { connector, end }] of [...this.heard]) {
        if (connectors.get(key) === connector) continue;
        end();
        this.heard.delete(key);
      }
      for (const [key, connector] of connectors)
        if (!this.stopped && connector.noted && !this.heard.has(key)) await this.hear(key, connector);
    } catch (thrown) {
      this.log.debug(thrown, 'it was not looked who notes changes');
    }
  }

  private async hear(key: string, connector: Connector): Promise<void> {
    const news = oneAtATime(() =>
      queueListening(this.pool, key).catch((thrown: unknown) =>
        // It is fetched within a minute all the same.
        this.log.debug(thrown, 'noted changes were not asked for'),
      ),
    );
    try {
      const end = await connector.noted?.hear(news, () => this.heard.delete(key));
      if (!end) return;
      this.heard.set(key, { connector, end });
      // For what was noted before it was heard.
      news();
    } catch (thrown) {
      // A system that is not there is heard at a later look.
      this.log.debug({ system: key, thrown }, 'a system that notes changes is not heard');
    }
  }
}

/** Returns what does work again and again, one after the other: whoever asks for it while it is done is served by one more. */
function oneAtATime(work: () => Promise<void>): () => void {
  let isAtWork = false;
  let isAsked = false;
  const go = async () => {
    isAtWork = true;
    do {
      isAsked = false;
      await work();
    } while (isAsked);
    isAtWork = false;
  };
  return () => {
    isAsked = true;
    if (!isAtWork) void go();
  };
}

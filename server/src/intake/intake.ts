import { setTimeout } from 'node:timers/promises';
import type { Pool } from '../db/pool';
import type { RegistrySource } from '../registry/registry';
import type { ReceivedEvent } from '../inbox/inbox';
import { takeAll } from './takeAll';

interface Waiting {
  readonly event: ReceivedEvent;
  readonly done: (id: string | undefined) => void;
  readonly fail: (thrown: unknown) => void;
}

/** From so many events at once on, it is a flood. */
const flood = 4;
const gatherMs = 25;

/** Events taken in one transaction. */
const batchSize = 200;

/**
 * Takes change events into the inbox. Those of a system that come while a transaction is under way wait for the next one and share
 * it, so that ten thousand events of a bulk write cost a few hundred transactions; those of other systems do not wait for them.
 */
export class Intake {
  private readonly lanes = new Map<string, IntakeLane>();

  constructor(
    private readonly pool: Pool,
    private readonly registry: RegistrySource,
  ) {}

  /** Returns the id of the run once the event is safe; undefined for one that was taken before. */
  take(event: ReceivedEvent): Promise<string | undefined> {
    const { system } = event.ref;
    const lane = this.lanes.get(system) ?? new IntakeLane(this.pool, this.registry);
    this.lanes.set(system, lane);
    return lane.take(event);
  }
}

/** Takes the events of one system. */
class IntakeLane {
  private waiting: Waiting[] = [];
  private running = false;

  constructor(
    private readonly pool: Pool,
    private readonly registry: RegistrySource,
  ) {}

  take(event: ReceivedEvent): Promise<string | undefined> {
    return new Promise((done, fail) => {
      this.waiting.push({ event, done, fail });
      if (!this.running) void this.takeWaiting();
    });
  }

  private async takeWaiting(): Promise<void> {
    this.running = true;
    while (this.waiting.length > 0) {
      const batch = this.waiting.splice(0, batchSize);
      await this.takeBatch(batch);
      // In a flood a moment of waiting makes the next transaction worth more, and leaves the machine to those who write.
      if (batch.length >= flood) await setTimeout(gatherMs);
    }
    this.running = false;
  }

  private async takeBatch(batch: readonly Waiting[]): Promise<void> {
    try {
      const ids = await takeAll(
        this.pool,
        await this.registry.recent(),
        batch.map(({ event }) => event),
      );
      batch.forEach(({ done }, at) => done(ids[at]));
    } catch (thrown) {
      // One that cannot be stored must not keep the others out.
      if (batch.length === 1) batch[0]?.fail(thrown);
      else for (const one of batch) await this.takeBatch([one]);
    }
  }
}

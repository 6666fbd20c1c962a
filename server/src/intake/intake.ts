import { Gather } from '../db/gather';
import type { Pool } from '../db/pool';
import type { RegistrySource } from '../registry/registry';
import type { ReceivedEvent } from '../inbox/inbox';
import { takeAll } from './takeAll';

/** In a flood a moment of waiting makes the next transaction worth more, and leaves the machine to those who write. */
const flood = { from: 4, pauseMs: 25 };

/** Events taken in one transaction. */
const batchSize = 200;

/**
 * Takes change events into the inbox. Those of a system that come while a transaction is under way wait for the next one and share
 * it, so that ten thousand events of a bulk write cost a few hundred transactions; those of other systems do not wait for them. One
 * that cannot be stored does not keep the others out.
 */
export class Intake {
  private readonly systems = new Map<string, Gather<ReceivedEvent, string | undefined>>();

  constructor(
    private readonly pool: Pool,
    private readonly registry: RegistrySource,
  ) {}

  /** Returns the id of the run once the event is safe; undefined for one that was taken before. */
  take(event: ReceivedEvent): Promise<string | undefined> {
    const { system } = event.ref;
    const gather =
      this.systems.get(system) ??
      new Gather(
        async (events: readonly ReceivedEvent[]) => takeAll(this.pool, await this.registry.recent(), events),
        { most: batchSize, flood },
      );
    this.systems.set(system, gather);
    return gather.do(event);
  }
}

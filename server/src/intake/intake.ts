import { Gather } from '../db/gather';
import type { Pool } from '../db/pool';
import type { RegistrySource } from '../registry/registry';
import type { ReceivedEvent } from '../inbox/inbox';
import { takeAll, type Taken } from './takeAll';

/** Events taken in one transaction. */
const batchSize = 200;

/** After events that told of nothing but our own writes: they are in no hurry, and those who write need the machine. */
const echoPauseMs = 25;

/**
 * Takes change events into the inbox. Those of a system that come while transactions are under way wait for the next one and share
 * it, so that ten thousand events of a bulk write cost a few hundred transactions; those of other systems do not wait for them. One
 * that cannot be stored does not keep the others out.
 */
export class Intake {
  private readonly systems = new Map<string, Gather<ReceivedEvent, Taken>>();

  constructor(
    private readonly pool: Pool,
    private readonly registry: RegistrySource,
  ) {}

  /** Returns the id of the run once the event is safe; undefined for one that was taken before. */
  async take(event: ReceivedEvent): Promise<string | undefined> {
    const { system } = event.ref;
    const gather =
      this.systems.get(system) ??
      new Gather(
        async (events: readonly ReceivedEvent[]) => takeAll(this.pool, await this.registry.recent(), events),
        {
          most: batchSize,
          pauseAfter: (taken) => (taken.length > 1 && taken.every(({ own }) => own) ? echoPauseMs : 0),
        },
      );
    this.systems.set(system, gather);
    return (await gather.do(event)).id;
  }
}

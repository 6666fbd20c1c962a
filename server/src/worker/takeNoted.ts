import type { Logger } from 'pino';
import { WorkspaceError } from '@vast-knot/core';
import { countTaken, takeAll } from '../intake/takeAll';
import type { Pool } from '../db/pool';
import type { ReceivedEvent } from '../inbox/inbox';
import type { Registry } from '../registry/registry';
import { noteLookProblem } from '../systems/listening';

/**
 * As `takeNoted`; where the system refuses, because its trigger is not there, say, that is noted for the record types, and holds up nothing
 * else.
 */
export async function takeNotedIfPossible(
  pool: Pool,
  registry: Registry,
  system: string,
  log: Logger,
): Promise<number> {
  try {
    return await takeNoted(pool, registry, system);
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError) || thrown.problem.code !== 'refused') throw thrown;
    const { message } = thrown.problem;
    log.warn({ system, because: message }, 'noted changes were not fetched');
    for (const recordType of registry.connectors.get(system)?.noted?.recordTypes ?? [])
      await noteLookProblem(pool, system, recordType, message);
    return 0;
  }
}

/**
 * Fetches the changes that a system noted by itself, and takes them as events. What was taken is let go afterwards; where that is not
 * done any more, it comes again and is known. Returns how many were taken. Throws a WorkspaceError when the system does not answer.
 */
export async function takeNoted(pool: Pool, registry: Registry, system: string): Promise<number> {
  const source = registry.connectors.get(system)?.noted;
  if (!source) return 0;
  let count = 0;
  for (;;) {
    const noted = await source.oldest();
    if (noted.length === 0) return count;
    const events = noted.map(({ id, at, kind, recordType, recordId, record }): ReceivedEvent => ({
      // The count begins anew where somebody makes the notes anew.
      id: `${id}/${at}`,
      source: `/vast-knot/noted/${system}`,
      kind,
      ref: { system, recordType, id: recordId },
      time: at,
      record,
      claimed: [],
    }));
    count += countTaken(await takeAll(pool, registry, events));
    await source.letGo(noted.map(({ id }) => id));
  }
}

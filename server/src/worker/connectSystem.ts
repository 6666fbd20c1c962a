import type { Logger } from 'pino';
import { WorkspaceError } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import type { Registry } from '../registry/registry';
import { queueConnecting, queueListening } from '../systems/connecting';
import { readUrl } from '../systems/installation';
import { readHeard } from '../systems/listening';
import { noteCaughtUp, noteSubscribed } from '../systems/states';
import { look } from './listenToSystem';
import { takeNotedIfPossible } from './takeNoted';

interface Connecting {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly log: Logger;
}

/** Pause before a system that could not be connected is asked again. */
const againMs = 5000;

/**
 * Asks a system to send its events to us, and then for what changed while it could not tell: since it was last seen, where it can be
 * asked so, and otherwise, or `whole`, by comparing all of its records. One that does not answer is asked again and again, and holds up
 * nobody.
 */
export async function connectSystem(
  key: string,
  { pool, registry, log }: Connecting,
  whole = false,
): Promise<void> {
  const connector = registry.connectors.get(key);
  if (!connector) return;
  const url = await readUrl(pool);
  let subscribed = false;
  try {
    if (url !== undefined) {
      await connector.listen(`${url}/hooks/${key}`, registry.webhookSecrets.get(key) ?? '');
      await noteSubscribed(pool, key, null);
    }
    subscribed = true;
    const now = new Date();
    const heard = await readHeard(pool, key);
    let found = await takeNotedIfPossible(pool, registry, key, log);
    for (const { name: recordType } of registry.catalog.system(key)?.recordTypes ?? []) {
      const how = connector.listeningOf(recordType).asked && !whole ? 'asked' : 'compared';
      const looking = { system: key, recordType, why: 'catching up', now } as const;
      found += (await look(looking, how, { pool, registry, log, now }, heard.get(recordType))).taken;
    }
    await noteCaughtUp(pool, key);
    if (found > 0) log.info({ system: key, found }, 'changes were found by catching up');
    await queueListening(pool, key);
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    const { message, waits } = thrown.problem;
    if (!subscribed) await noteSubscribed(pool, key, message);
    log.warn({ system: key, because: message }, 'the system is not connected yet');
    const runAt = new Date(Math.max(Date.now() + againMs, waits?.until ?? 0));
    await queueConnecting(pool, key, { runAt, whole });
  }
}

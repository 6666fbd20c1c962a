import type { Logger } from 'pino';
import { WorkspaceError } from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { catchUp } from '../intake/catchUp';
import type { Registry } from '../registry/registry';
import { queueConnecting } from '../systems/connecting';
import { readUrl } from '../systems/installation';
import { isLearnt, noteCaughtUp, noteSubscribed } from '../systems/states';

interface Connecting {
  readonly pool: Pool;
  readonly registry: Registry;
  readonly log: Logger;
}

/** Pause before a system that could not be connected is asked again. */
const againMs = 5000;

/**
 * Asks a system to send its events to us, and then for what changed while it could not tell. One that does not answer is asked again and
 * again, and holds up nobody.
 */
export async function connectSystem(key: string, { pool, registry, log }: Connecting): Promise<void> {
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
    const learning = !(await isLearnt(pool, key));
    const found = await catchUp(pool, registry, { system: key, learning, now: new Date() });
    await noteCaughtUp(pool, key);
    if (found > 0) log.info({ system: key, found }, 'changes were found by catching up');
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    const { message, waits } = thrown.problem;
    if (!subscribed) await noteSubscribed(pool, key, message);
    log.warn({ system: key, because: message }, 'the system is not connected yet');
    await queueConnecting(pool, key, new Date(Math.max(Date.now() + againMs, waits?.until ?? 0)));
  }
}

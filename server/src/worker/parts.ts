import { pino, type Logger } from 'pino';
import type { Agent } from 'undici';
import type { Config } from '../config/config';
import { outboundAgent } from '../connector/outbound';
import { openPool, type Pool } from '../db/pool';
import { Seal } from '../db/seal';
import { RegistryCache } from '../registry/registry';

/** What every thread of a server has for itself. */
interface ServerParts {
  readonly pool: Pool;
  readonly registry: RegistryCache;
  readonly seal: Seal;
  /** Reaches outside addresses that may be reached. */
  readonly dispatcher: Agent;
  readonly log: Logger;
  close(): Promise<void>;
}

/** Opens the connections of a thread. */
export function openParts(config: Config): ServerParts {
  const log = pino({ level: config.logLevel }, pino.destination(2));
  const pool = openPool(config.databaseUrl, (error) => log.error(error, 'a database connection broke'));
  const seal = new Seal(config.sealKey);
  const dispatcher = outboundAgent(config.allowedOutbound);
  return {
    pool,
    seal,
    dispatcher,
    log,
    registry: new RegistryCache(pool, seal, dispatcher, config.allowedOutbound),
    async close() {
      await dispatcher.close();
      await pool.end();
    },
  };
}

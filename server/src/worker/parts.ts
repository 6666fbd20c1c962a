import { pino, type Logger } from 'pino';
import type { Agent } from 'undici';
import type { Config } from '../config/config';
import { Gates } from '../connector/gates';
import { outboundAgent } from '../connector/outbound';
import { openPool, type Pool } from '../db/pool';
import { Seal } from '../db/seal';
import type { Measures } from '../metrics/measures';
import { unmeasured } from '../metrics/measures';
import { Metrics } from '../metrics/metrics';
import { RegistryCache, type Outside } from '../registry/registry';
import { Journal } from '../systems/journal';
import { Standing } from './standing';

/** What every thread of a server has for itself. */
export interface ServerParts {
  readonly pool: Pool;
  readonly registry: RegistryCache;
  readonly seal: Seal;
  /** Reaches outside addresses that may be reached. */
  readonly dispatcher: Agent;
  readonly gates: Gates;
  /** How systems and other outside addresses are reached. */
  readonly outside: Outside;
  readonly standing: Standing;
  readonly measures: Measures;
  readonly log: Logger;
  close(): Promise<void>;
}

/** Opens the connections of a thread. */
export function openParts(config: Config): ServerParts {
  const log = pino({ level: config.logLevel }, pino.destination(2));
  const pool = openPool(config.databaseUrl, ({ message }) =>
    log.warn({ because: message }, 'a database connection broke'),
  );
  const seal = new Seal(config.sealKey, ...config.formerSealKeys);
  const dispatcher = outboundAgent(config.allowedOutbound);
  const gates: Gates = new Gates((system, state) => standing.changed(system, state));
  const journal = new Journal(pool, (error) => log.error(error, 'the journal could not be written'));
  const outside: Outside = {
    dispatcher,
    gates,
    allowedOutbound: config.allowedOutbound,
    watch: (system, watched) => {
      journal.note(system, watched);
      const { status, milliseconds } = watched.exchanged;
      metrics?.asked(system.key, status !== null, milliseconds / 1000);
    },
    came: (system, watched, what) => journal.note(system, watched, what),
  };
  const metrics =
    config.metricsToken === undefined
      ? undefined
      : new Metrics(pool, (error) => log.error(error, 'what was counted could not be kept'));
  const standing = new Standing(gates, { databaseUrl: config.databaseUrl, pool, log });
  return {
    pool,
    seal,
    dispatcher,
    gates,
    standing,
    measures: metrics ?? unmeasured,
    log,
    outside,
    registry: new RegistryCache(pool, seal, outside, new Set(Object.keys(config.outFolders))),
    async close() {
      await standing.stop();
      await metrics?.stop();
      await journal.stop();
      await dispatcher.destroy();
      await pool.end();
    },
  };
}

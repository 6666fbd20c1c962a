import { createServer } from 'node:http';
import { resolve } from 'node:path';
import type { Logger } from 'pino';
import { createApp } from './api/app';
import type { Config } from './config/config';
import { here, ThreadComputer } from './compute/computer';
import { migrate } from './db/migrate';
import { NoticeListener } from './db/notices';
import { createDatabase, type Pool } from './db/pool';
import { connectEndpoints, connectSystems, loadDemo } from './demo/load';
import { ensureUsers } from './http/session';
import type { Registry } from './registry/registry';
import { NoticeStream } from './http/noticeStream';
import { learnRecords } from './images/learn';
import { unwatched } from './worker/computing';
import { openParts } from './worker/parts';
import { Supervisor } from './worker/supervisor';
import { Worker } from './worker/worker';

export interface RunningServer {
  readonly url: string;
  stop(): Promise<void>;
}

/** The built files of the threads. */
export interface ThreadFiles {
  readonly worker: URL;
  readonly compute: URL;
}

/**
 * Starts one process: the API, a worker, or both, as the configuration says. With the files of threads, the worker and what persons
 * typed are computed away from the thread that answers; without, as in tests, in this one.
 */
export async function startServer(config: Config, files?: ThreadFiles): Promise<RunningServer> {
  await createDatabase(config.databaseUrl);
  const { pool, seal, registry, dispatcher, log, close } = openParts(config);
  await migrate(pool, config.migrations);
  const stoppers: (() => Promise<void> | void)[] = [];
  let url = config.publicUrl;

  if (config.role !== 'worker') {
    if (config.demoFolder !== undefined) await loadDemo(pool, config.demoFolder, config);
    await connectSystems(pool, seal, config.connections);
    await connectEndpoints(pool, seal, config.endpoints);
    await ensureUsers(pool, config.users);
    const stream = new NoticeStream();
    const computer = files ? new ThreadComputer(files.compute, config.computeLimits) : here;
    stoppers.push(() => computer.stop());
    const listener = new NoticeListener(config.databaseUrl, (notice) => stream.broadcast(notice));
    await listener.start();
    const app = createApp({
      config: { ...config, webFolder: resolve(config.webFolder) },
      pool,
      registry,
      computer,
      stream,
      seal,
      log,
    });
    const server = createServer(app);
    await new Promise<void>((done, fail) => {
      server.once('error', fail);
      server.listen(config.port, '127.0.0.1', () => done());
    });
    const address = server.address();
    if (config.port === 0 && typeof address === 'object' && address) url = `http://127.0.0.1:${address.port}`;
    stoppers.push(async () => {
      stream.stop();
      await listener.stop();
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
    });
    await connectAll({
      registry: await registry.get(),
      pool,
      systems: Object.keys(config.connections),
      url,
      log,
    });
  }
  if (config.role !== 'api') {
    const worker = files
      ? await Supervisor.start({ file: files.worker, config, pool, log })
      : await Worker.start({ config, pool, registry, dispatcher, log, computing: unwatched });
    stoppers.unshift(() => worker.stop());
  }
  return {
    url,
    async stop() {
      for (const stop of stoppers) await stop();
      await close();
    },
  };
}

interface Connecting {
  readonly registry: Registry;
  readonly pool: Pool;
  readonly systems: readonly string[];
  /** The address of this server. */
  readonly url: string;
  readonly log: Logger;
}

/** Asks each system for its events and learns its records; one that does not answer does not hold up the others. */
async function connectAll({ registry, pool, systems, url, log }: Connecting): Promise<void> {
  await Promise.all(
    systems.map(async (key) => {
      try {
        const secret = registry.webhookSecrets.get(key) ?? '';
        await registry.connectors.get(key)?.listen(`${url}/hooks/${key}`, secret);
        const learnt = await learnRecords(pool, registry, key);
        log.debug({ system: key, learnt }, 'system connected');
      } catch (thrown) {
        const because = thrown instanceof Error ? thrown.message : String(thrown);
        log.warn({ system: key, because }, 'system not connected');
      }
    }),
  );
}

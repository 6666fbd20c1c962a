import { createServer } from 'node:http';
import { resolve } from 'node:path';
import type { Logger } from 'pino';
import { createApp } from './api/app';
import type { Config } from './config/config';
import { here, ThreadComputer } from './compute/computer';
import { migrate } from './db/migrate';
import { noticeListener } from './db/notices';
import { createDatabase, isDatabaseAway, type Pool } from './db/pool';
import { connectEndpoints, connectSystems, loadDemo } from './demo/load';
import { ensureUsers } from './http/session';
import { NoticeStream } from './http/noticeStream';
import type { Registry } from './registry/registry';
import { queueConnecting } from './systems/connecting';
import { keepUrl } from './systems/installation';
import { isLearnt } from './systems/states';
import { unwatched } from './worker/computing';
import { connectSystem } from './worker/connectSystem';
import { KeptWorker } from './worker/keptWorker';
import { openParts, type ServerParts } from './worker/parts';
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
  const parts = openParts(config);
  const { pool, registry, log, standing } = parts;
  await whenThere(() => createDatabase(config.databaseUrl), log);
  await whenThere(() => migrate(pool, config.migrations), log);
  await standing.start();
  const stoppers: (() => Promise<void> | void)[] = [];
  let url = config.publicUrl;
  if (config.role !== 'worker') {
    const api = await startApi(config, parts, files);
    url = api.url;
    stoppers.push(() => api.stop());
  }
  if (config.role !== 'api') {
    const worker = files
      ? await Supervisor.start({ file: files.worker, config, pool, log })
      : await KeptWorker.start(
          (broken) => Worker.start({ ...parts, config, computing: unwatched, broken }),
          log,
        );
    stoppers.unshift(() => worker.stop());
  }
  if (config.role !== 'worker') await connectAll(pool, await registry.get(), log);
  return {
    url,
    async stop() {
      for (const stop of stoppers) await stop();
      await parts.close();
    },
  };
}

/** Starts what answers over HTTP. */
async function startApi(
  config: Config,
  { pool, seal, registry, outside, log }: ServerParts,
  files: ThreadFiles | undefined,
): Promise<RunningServer> {
  if (config.demoFolder !== undefined) await loadDemo(pool, config.demoFolder, config);
  await connectSystems(pool, seal, config.connections);
  await connectEndpoints(pool, seal, config.endpoints);
  await ensureUsers(pool, config.users);
  const stream = new NoticeStream();
  const computer = files ? new ThreadComputer(files.compute, config.computeLimits) : here;
  const listener = noticeListener(config.databaseUrl, (notice) => stream.broadcast(notice));
  await listener.start();
  const app = createApp({
    config: { ...config, webFolder: resolve(config.webFolder) },
    pool,
    registry,
    computer,
    stream,
    seal,
    outside,
    log,
  });
  const server = createServer(app);
  await new Promise<void>((done, fail) => {
    server.once('error', fail);
    server.listen(config.port, '127.0.0.1', () => done());
  });
  const address = server.address();
  // Without an address of its own it is reached at its port, which may have been any free one.
  const port = typeof address === 'object' && address ? address.port : config.port;
  const url = config.publicUrl.replace(/:0$/, `:${port}`);
  await keepUrl(pool, url);
  return {
    url,
    async stop() {
      stream.stop();
      await listener.stop();
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
      await computer.stop();
    },
  };
}

/** Pause before the database is tried again. */
const againMs = 500;

/** Does what needs the database as soon as that is there. */
async function whenThere(work: () => Promise<void>, log: Logger): Promise<void> {
  for (let told = false; ;) {
    try {
      return await work();
    } catch (thrown) {
      if (!isDatabaseAway(thrown)) throw thrown;
      if (!told) log.error(thrown, 'the database does not answer; it is waited for');
      told = true;
      await new Promise((done) => setTimeout(done, againMs));
    }
  }
}

/**
 * Connects every system. Of one that is new its records are learnt first, so that the first change of each is known for what it is; the
 * others are asked what changed meanwhile, beside other work.
 */
async function connectAll(pool: Pool, registry: Registry, log: Logger): Promise<void> {
  await Promise.all(
    [...registry.connectors.keys()].map(async (key) =>
      (await isLearnt(pool, key)) ? queueConnecting(pool, key) : connectSystem(key, { pool, registry, log }),
    ),
  );
}

import { filesHere, FileThread } from './tables/files';
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
import { invite } from './people/invitations';
import { ensurePeople, isLookedAfter, readPeople } from './people/people';
import { NoticeStream } from './http/noticeStream';
import type { Registry } from './registry/registry';
import { ofEndpoint } from './endpoints/repository';
import { unopened } from './sealed';
import { ofSystem } from './systems/repository';
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
  /** With it the first person who looks after people joins; absent where there is one. */
  readonly firstLink?: string;
  stop(): Promise<void>;
}

/** The built files of the threads. */
export interface ThreadFiles {
  readonly worker: URL;
  readonly compute: URL;
  readonly files: URL;
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
  try {
    await requireKey(parts, config);
  } catch (thrown) {
    await parts.close();
    throw thrown;
  }
  await standing.start();
  const stoppers: (() => Promise<void> | void)[] = [];
  let url = config.publicUrl;
  let firstLink: string | undefined;
  if (config.role !== 'worker') {
    const api = await startApi(config, parts, files);
    ({ url, firstLink } = api);
    stoppers.push(() => api.stop());
  }
  if (config.role !== 'api') {
    const worker = files
      ? await Supervisor.start({ file: files.worker, config, pool, log })
      : await KeptWorker.start(
          (broken) => Worker.start({ ...parts, config, computing: unwatched, computer: here, broken }),
          log,
        );
    stoppers.unshift(() => worker.stop());
  }
  if (config.role !== 'worker') await connectAll(pool, await registry.get(), log);
  return {
    url,
    ...(firstLink !== undefined && { firstLink }),
    async stop() {
      for (const stop of stoppers) await stop();
      await parts.close();
    },
  };
}

/**
 * Throws a sentence where the key of the settings is not that with which the secrets of the database are sealed: nothing would be reached, and
 * nothing is written. What the environment gives at each start is sealed anew, and needs no key from before.
 */
async function requireKey({ pool, seal }: ServerParts, { connections, endpoints }: Config): Promise<void> {
  const given = new Set([
    ...Object.keys(connections).flatMap((key) => ['token', 'webhook'].map((name) => ofSystem(key, name))),
    ...Object.keys(endpoints).map(ofEndpoint),
  ]);
  const [first, ...others] = (await unopened(pool, seal)).filter((place) => !given.has(place));
  if (first === undefined) return;
  const more = others.length === 0 ? '' : ` and ${others.length} more`;
  throw new Error(
    `SEAL_KEY is not the key with which “${first}”${more} was sealed. Give the right one, or that one in SEAL_KEYS_FORMER.`,
  );
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
  await ensurePeople(pool, config.users);
  const firstLink = await inviteFirst(pool, config.publicUrl);
  const stream = new NoticeStream();
  const computer = files ? new ThreadComputer(files.compute, config.computeLimits) : here;
  const tableFiles = files ? new FileThread(files.files, config.databaseUrl) : filesHere(pool);
  const listener = noticeListener(config.databaseUrl, (notice) => stream.broadcast(notice));
  await listener.start();
  const app = createApp({
    config: { ...config, webFolder: resolve(config.webFolder) },
    pool,
    registry,
    computer,
    files: tableFiles,
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
    ...(firstLink !== undefined && { firstLink }),
    async stop() {
      stream.stop();
      await listener.stop();
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
      await computer.stop();
      await tableFiles.stop();
    },
  };
}

/** Where nobody may invite people, returns a link with which somebody joins who may. */
async function inviteFirst(pool: Pool, publicUrl: string): Promise<string | undefined> {
  if (await isLookedAfter(pool)) return undefined;
  const taken = new Set((await readPeople(pool)).map(({ name }) => name));
  let name = 'admin';
  for (let at = 2; taken.has(name); at++) name = `admin-${at}`;
  const invited = { kind: 'join', name, mail: '', role: 'administrator', madeBy: 'the start' } as const;
  return `${publicUrl}/join#${(await invite(pool, invited)).secret}`;
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

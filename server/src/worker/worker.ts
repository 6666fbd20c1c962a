import { EventEmitter } from 'node:events';
import { randomInt } from 'node:crypto';
import { Logger, makeWorkerUtils, run, type Runner as JobRunner, type WorkerEvents } from 'graphile-worker';
import Joi from 'joi';
import pg from 'pg';
import type { Logger as Log } from 'pino';
import type { RecordRef } from '@vast-knot/core';
import type { Config } from '../config/config';
import type { Gates } from '../connector/gates';
import { inTransaction, isDatabaseAway, type Pool } from '../db/pool';
import { appendLost } from '../audit/chain';
import { clearDrafts } from '../drafts/repository';
import { queueLost, type Lane } from '../inbox/lanes';
import type { Dispatcher } from 'undici';
import { historyKind } from '../history/compareHistory';
import type { Measures } from '../metrics/measures';
import { foldGone } from '../metrics/metrics';
import { runJob, type JobKind } from '../jobs/runJob';
import { deliverMessage } from '../messages/deliver';
import type { Outside, RegistrySource } from '../registry/registry';
import { driftTick } from '../reconcile/drift';
import { applyFileKind } from '../arrivals/apply';
import { lookAtFileKind } from '../arrivals/look';
import { clearArrivals } from '../arrivals/repository';
import type { Computer } from '../compute/computer';
import { workbooksBy } from '../compute/workbooks';
import type { Seal } from '../db/seal';
import { filesTick, lookForFiles } from '../fileSources/look';
import { clearAnswers } from '../forms/answers';
import { lookKind } from '../reconcile/look';
import { writeKind } from '../reconcile/write';
import { undoManyKind } from '../undo/undoMany';
import { forgetPresence } from '../people/presence';
import { clearOld } from '../runs/clear';
import { tick } from '../schedule/tick';
import { tellPeople } from '../telling/tell';
import { queueConnecting } from '../systems/connecting';
import { clearExchanges } from '../systems/journal';
import { releaseWait, type Wait } from '../waits/waits';
import type { Computing } from './computing';
import { connectSystem } from './connectSystem';
import { listenToSystem } from './listenToSystem';
import { lookAtTables } from './lookAtTables';
import { lookAtSchemas } from './lookAtSchemas';
import { NotedHearing } from './notedHearing';
import { WordKeeper } from './wordKeeper';
import { handleLane } from './handleLane';
import { Sets } from './sets';
import { RightOfWay } from './rightOfWay';
import { Turns } from './turns';
import { Wakes } from './wakes';

const payloadSchema = Joi.object<RecordRef>({
  system: Joi.string().required(),
  recordType: Joi.string().required(),
  id: Joi.string().required(),
});
const waitSchema = Joi.object<Wait>({ rule: Joi.string().guid().required(), ref: payloadSchema.required() });
const laneSchema = Joi.object<Lane>({
  system: Joi.string().required(),
  lane: Joi.number().integer().required(),
});
interface SystemJob {
  readonly system: string;
  readonly whole: boolean;
}
const systemSchema = Joi.object<SystemJob>({
  system: Joi.string().required(),
  whole: Joi.boolean().default(false),
});
const readSystem = (payload: unknown) => Joi.attempt(payload, systemSchema) as SystemJob;
/** Which table is to be looked at; none where the clock asks for all. */
const readTable = (payload: unknown) =>
  (Joi.attempt(payload, Joi.object({ table: Joi.string() }).unknown()) as { table?: string }).table;
const readSourceAsked = (payload: unknown) =>
  Joi.attempt(payload, Joi.object({ source: Joi.string().guid().required() })) as { source: string };
const idSchema = Joi.object({ id: Joi.string().guid().required() });
const tickSchema = Joi.object({
  _cron: Joi.object({ ts: Joi.string().required() }).unknown().required(),
}).unknown();

/** The kinds of long work. */
const jobKinds: readonly JobKind[] = [
  historyKind,
  lookKind,
  writeKind,
  undoManyKind,
  lookAtFileKind,
  applyFileKind,
];

/** Tries of long work that fails: with the waits between them, about two minutes. */
const jobTries = 5;

const heartbeatMs = 5000;

/** Every night, and minutes that passed while no worker ran, up to a day. */
const clock = [
  '* * * * * schedule_tick ?fill=1d&queue=clock',
  '* * * * * tell_people ?queue=tell&max=1',
  '17 2 * * * connect_all ?fill=1d&queue=clock&max=25',
  '41 2 * * * look_at_schemas ?fill=1d&queue=schemas&max=25',
  '51 2 * * * look_at_tables ?fill=1d&queue=schemas&max=25',
  '5 3 * * * clear_old ?fill=1d&queue=clear&max=25',
];

/** What is on its way when the worker is stopped has so long to be answered. */
const graceMs = 4000;

/** What a worker works with. */
interface WorkerParts {
  readonly config: Config;
  readonly pool: Pool;
  readonly seal: Seal;
  readonly registry: RegistrySource;
  /** Reaches outside addresses. */
  readonly dispatcher: Dispatcher;
  readonly gates: Gates;
  /** How systems and other outside addresses are reached. */
  readonly outside: Outside;
  readonly log: Log;
  readonly computing: Computing;
  /** Computes beside the thread of the worker what takes long. */
  readonly computer: Computer;
  readonly measures: Measures;
  /** Hears that the worker can do no more: its connections to the database broke. It has to be started anew. */
  readonly broken: (why: Error) => void;
}

/**
 * Takes jobs from the queue. Each process holds a lock of PostgreSQL for as long as it lives; the jobs of a process
 * whose lock is free are given back, so that a killed worker holds nothing up.
 */
export class Worker {
  private constructor(
    private readonly runner: JobRunner,
    private readonly lock: pg.Client,
    private readonly timer: NodeJS.Timeout,
    private readonly state: { stopping: boolean },
    private readonly gates: Gates,
    private readonly wakes: Wakes,
    private readonly hearing: NotedHearing,
    private readonly words: WordKeeper,
  ) {}

  static async start(parts: WorkerParts): Promise<Worker> {
    const { config, pool, registry, dispatcher, outside, gates, log, computing, computer } = parts;
    const lock = new pg.Client({ connectionString: config.databaseUrl, keepAlive: true });
    const breaks = (why: Error) => {
      if (!state.stopping) parts.broken(why);
      state.stopping = true;
    };
    // Without it others take this worker for dead, and its jobs with it.
    lock.on('error', breaks);
    lock.on('end', () => breaks(new Error('the connection that shows this worker alive ended')));
    await lock.connect();
    const lockKey = randomInt(1, 2 ** 31 - 1);
    const owner = `worker ${lockKey}`;
    const state = { stopping: false };
    const stopping = () => state.stopping;
    const sets = new Sets(pool, config.mostAttempts, parts.measures);
    const turns = new Turns();
    const rightOfWay = new RightOfWay();
    const wakes = new Wakes(config.databaseUrl);
    await lock.query('SELECT pg_advisory_lock(4600, $1)', [lockKey]);
    await lock.query('INSERT INTO worker_processes (lock_key) VALUES ($1)', [lockKey]);
    const giveUp = async (thrown: unknown): Promise<never> => {
      // Nothing is left behind that would count as a worker, or listen for one.
      state.stopping = true;
      await wakes.stop();
      await lock.end().catch(() => undefined);
      throw thrown;
    };
    const begin = async () => {
      await releaseDead(pool, log);
      await wakes.start();
      // What waited when the last worker ended, or has lost its job.
      await queueLost(pool, 0);
    };
    await begin().catch(giveUp);

    const events: WorkerEvents = new EventEmitter() as WorkerEvents;
    // The queue locks jobs in the name of the pool.
    events.on('pool:create', ({ workerPool }) => {
      lock
        .query('UPDATE worker_processes SET pool_id = $2 WHERE lock_key = $1', [lockKey, workerPool.id])
        .catch((error: unknown) => log.error(error, 'this worker could not be listed'));
    });
    const runner = await run({
      pgPool: pool,
      concurrency: config.concurrency,
      noHandleSignals: true,
      pollInterval: 1000,
      crontab: clock.join('\n'),
      events,
      logger: new Logger(() => (level, message, meta) => {
        if (level === 'error') log.error(meta, message);
        else log.debug(meta, message);
      }),
      taskList: {
        handle_lane: async (payload) => {
          const lane = Joi.attempt(payload, laneSchema) as Lane;
          await handleLane(lane, {
            pool,
            registry,
            computing,
            sets,
            turns,
            rightOfWay,
            log,
            stopping,
            listen: wakes.listen,
          });
        },
        release_wait: async (payload) => {
          const wait = Joi.attempt(payload, waitSchema) as Wait;
          await releaseWait(pool, await registry.get(), wait);
        },
        deliver_message: async (payload) => {
          const { id } = Joi.attempt(payload, idSchema) as { id: string };
          const { allowedOutbound } = config;
          const current = await registry.get();
          await deliverMessage(id, {
            pool,
            registry: current,
            dispatcher,
            allowedOutbound,
            outFolders: config.outFolders,
            tools: workbooksBy(computer, current),
            now: () => new Date(),
          });
        },
        run_job: async (payload, { job }) => {
          const { id } = Joi.attempt(payload, idSchema) as { id: string };
          await runJob(id, {
            pool,
            registry,
            owner,
            kinds: jobKinds,
            stopping,
            lastTry: job.attempts >= jobTries,
          });
        },
        schedule_tick: async (payload) => {
          const { _cron } = Joi.attempt(payload, tickSchema) as { _cron: { ts: string } };
          const lost = await queueLost(pool);
          if (lost > 0)
            log.warn({ lanes: lost }, 'lanes whose events waited without a job were queued again');
          await appendLost(pool);
          const minute = new Date(_cron.ts).toISOString();
          await tick(pool, await registry.get(), minute);
          await driftTick(pool, await registry.get(), minute);
          await filesTick(pool, minute);
        },
        look_for_files: async (payload) =>
          lookForFiles(
            {
              pool,
              seal: parts.seal,
              registry: await registry.get(),
              computer,
              dispatcher,
              allowedOutbound: config.allowedOutbound,
              folders: config.folders,
              now: new Date(),
            },
            readSourceAsked(payload).source,
          ),
        tell_people: async () =>
          tellPeople({
            pool,
            registry: await registry.get(),
            dispatcher,
            allowedOutbound: config.allowedOutbound,
            mail: config.mail,
            publicUrl: config.publicUrl,
            now: new Date(),
          }),
        clear_old: async () => {
          await clearExchanges(pool);
          await clearArrivals(pool);
          await clearAnswers(pool);
          await clearDrafts(pool);
          await forgetPresence(pool);
          await inTransaction(pool, foldGone);
          const cleared = await clearOld(pool, config.keeping, stopping);
          if (cleared > 0) log.info({ cleared }, 'old runs were cleared away');
        },
        connect_all: async () => {
          for (const key of (await registry.get()).connectors.keys())
            await queueConnecting(pool, key, { whole: true });
        },
        look_at_schemas: () => lookAtSchemas({ pool, registry, outside, log }),
        look_at_tables: (payload) => lookAtTables({ pool, registry, log }, readTable(payload)),
        connect_system: async (payload) => {
          const { system, whole } = readSystem(payload);
          await connectSystem(system, { pool, registry: await registry.get(), log }, whole);
        },
        listen_system: async (payload) => {
          const { system } = readSystem(payload);
          await listenToSystem(system, { pool, registry: await registry.get(), log, now: new Date() });
        },
      },
    }).catch(giveUp);
    const timer = setInterval(() => {
      releaseDead(pool, log).catch((error: unknown) =>
        log.error(error, 'dead workers could not be looked for'),
      );
    }, heartbeatMs);
    runner.promise.then(
      () => breaks(new Error('the queue is not worked at any more')),
      (thrown: unknown) => breaks(thrown instanceof Error ? thrown : new Error(String(thrown))),
    );
    const hearing = new NotedHearing(pool, registry, log);
    return new Worker(runner, lock, timer, state, gates, wakes, hearing, new WordKeeper(pool, log));
  }

  async stop(): Promise<void> {
    clearInterval(this.timer);
    this.state.stopping = true;
    await this.hearing.stop();
    await this.words.stop();
    // Whoever waits for a system that hangs is told to try again later, and what it sent is sent again with the same keys.
    const grace = setTimeout(() => this.gates.end(), graceMs);
    try {
      await this.runner.stop();
      await this.lock.end();
    } catch (thrown) {
      // What broke is given back by others; there is nothing more to be stopped.
      if (!isDatabaseAway(thrown)) throw thrown;
    } finally {
      clearTimeout(grace);
      await this.wakes.stop();
    }
  }
}

/** Gives back the jobs of worker processes that are gone. */
async function releaseDead(pool: Pool, log: Log): Promise<void> {
  const client = await pool.connect();
  try {
    const { rows } = await client.query<{ lock_key: number; pool_id: string | null }>(
      'SELECT lock_key, pool_id FROM worker_processes WHERE pg_try_advisory_lock(4600, lock_key)',
    );
    if (rows.length === 0) return;
    const utils = await makeWorkerUtils({ pgPool: pool });
    await utils.forceUnlockWorkers(rows.flatMap((row) => row.pool_id ?? []));
    await utils.release();
    const keys = rows.map((row) => row.lock_key);
    await client.query('DELETE FROM worker_processes WHERE lock_key = ANY ($1)', [keys]);
    for (const key of keys) await client.query('SELECT pg_advisory_unlock(4600, $1)', [key]);
    log.warn({ workers: keys.length }, 'jobs of workers that are gone were given back');
  } finally {
    client.release();
  }
}

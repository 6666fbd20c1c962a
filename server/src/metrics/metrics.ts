import { AggregatorRegistry, Counter, Histogram, Registry, type MetricObject } from 'prom-client';
import { v7 as uuid, NIL } from 'uuid';
import { isDatabaseAway, type Pool, type Runner } from '../db/pool';
import type { Measures } from './measures';

/** How often a process keeps what it counted. */
const keepMs = 5000;
/** A process that kept nothing for so long is gone. */
const goneMinutes = 10;

/** From a hundredth of a second to an hour: a run waits for a system that is away. */
const runBuckets = [0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 60, 300, 3600];
const askBuckets = [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10];

/**
 * Counts what a process does, and keeps it in the database, where whoever asks any process finds the sum of all. Names and units are those
 * of Prometheus (Metric and label naming, prometheus.io).
 */
export class Metrics implements Measures {
  private readonly id = uuid();
  private readonly registry = new Registry();
  private readonly runs = new Counter({
    name: 'vast_knot_runs_total',
    help: 'Runs that ended, by the system of their event and what they came to.',
    labelNames: ['system', 'result'],
    registers: [this.registry],
  });
  private readonly runSeconds = new Histogram({
    name: 'vast_knot_run_duration_seconds',
    help: 'From an event to the end of its run.',
    labelNames: ['system'],
    buckets: runBuckets,
    registers: [this.registry],
  });
  private readonly writes = new Counter({
    name: 'vast_knot_writes_total',
    help: 'Writes of records, by system and what came of them.',
    labelNames: ['system', 'state'],
    registers: [this.registry],
  });
  private readonly askSeconds = new Histogram({
    name: 'vast_knot_system_request_duration_seconds',
    help: 'How long systems take to answer; those that do not answer by themselves.',
    labelNames: ['system', 'answered'],
    buckets: askBuckets,
    registers: [this.registry],
  });
  private counted = false;
  private readonly timer: NodeJS.Timeout;
  private keeping: Promise<void> = Promise.resolve();

  constructor(
    private readonly pool: Pool,
    private readonly onError: (error: unknown) => void,
  ) {
    this.timer = setInterval(() => this.keep(), keepMs);
  }

  runEnded(system: string, result: string, seconds: number): void {
    this.runs.inc({ system, result });
    this.runSeconds.observe({ system }, seconds);
    this.counted = true;
  }

  wrote(system: string, state: string, count: number): void {
    this.writes.inc({ system, state }, count);
    this.counted = true;
  }

  asked(system: string, answered: boolean, seconds: number): void {
    this.askSeconds.observe({ system, answered: String(answered) }, seconds);
    this.counted = true;
  }

  /** Keeps what was counted since it was kept last. What cannot be kept now is kept with the next call. */
  keep(): void {
    if (!this.counted) return;
    this.keeping = this.keeping.then(async () => {
      this.counted = false;
      try {
        await this.pool.query(
          `INSERT INTO process_metrics (process, metrics) VALUES ($1, $2)
           ON CONFLICT (process) DO UPDATE SET metrics = EXCLUDED.metrics, at = now()`,
          [this.id, JSON.stringify(await this.registry.getMetricsAsJSON())],
        );
      } catch (thrown) {
        this.counted = true;
        if (!isDatabaseAway(thrown)) this.onError(thrown);
      }
    });
  }

  async stop(): Promise<void> {
    clearInterval(this.timer);
    this.keep();
    await this.keeping;
  }
}

/** Returns what all processes counted, those that are gone included. */
export async function readCounted(runner: Runner): Promise<Registry> {
  const { rows } = await runner.query<{ metrics: MetricObject[] }>('SELECT metrics FROM process_metrics');
  return AggregatorRegistry.aggregate(rows.map(({ metrics }) => metrics)) as Registry;
}

/** Puts together what processes counted that are gone. */
export async function foldGone(client: Runner): Promise<void> {
  const { rows } = await client.query<{ metrics: MetricObject[] }>(
    `DELETE FROM process_metrics WHERE process = $1 OR at < now() - $2 * interval '1 minute' RETURNING metrics`,
    [NIL, goneMinutes],
  );
  if (rows.length === 0) return;
  const sum = AggregatorRegistry.aggregate(rows.map(({ metrics }) => metrics));
  await client.query(`INSERT INTO process_metrics (process, metrics, at) VALUES ($1, $2, 'infinity')`, [
    NIL,
    JSON.stringify(await sum.getMetricsAsJSON()),
  ]);
}

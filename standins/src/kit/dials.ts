import type { RequestHandler } from 'express';
import { setTimeout as sleep } from 'node:timers/promises';
import type { Pool } from './database';
import { Problem } from './problem';

/** How badly an application behaves, for showing and testing failures. */
interface Dials {
  readonly latencyMs: number;
  /** Share of requests that end with 500. */
  readonly errorRate: number;
  readonly requestsPerSecond: number | null;
  /** Connections are closed without an answer. */
  readonly outage: boolean;
  /** Share of events that are sent twice; while it is above 0 events are sent in any order. */
  readonly disorder: number;
}

const columns =
  'latency_ms AS "latencyMs", error_rate AS "errorRate", requests_per_second AS "requestsPerSecond", outage, disorder';

export class DialBoard {
  private constructor(
    private readonly pool: Pool,
    private dials: Dials,
  ) {}

  static async open(pool: Pool): Promise<DialBoard> {
    const { rows } = await pool.query<Dials>(`SELECT ${columns} FROM dials`);
    const [dials] = rows;
    if (!dials) throw new Error('the row of dials is missing');
    return new DialBoard(pool, dials);
  }

  get current(): Dials {
    return this.dials;
  }

  async turn(body: unknown): Promise<Dials> {
    const next = { ...this.dials, ...readDials(body) };
    await this.pool.query(
      'UPDATE dials SET latency_ms = $1, error_rate = $2, requests_per_second = $3, outage = $4, disorder = $5',
      [next.latencyMs, next.errorRate, next.requestsPerSecond, next.outage, next.disorder],
    );
    this.dials = next;
    return next;
  }

  /** Makes requests slow, failing, limited or unanswered, as the dials say. */
  middleware(): RequestHandler {
    let second = 0;
    let used = 0;
    return async (_request, response, next) => {
      const { latencyMs, errorRate, requestsPerSecond, outage } = this.dials;
      if (latencyMs > 0) await sleep(latencyMs);
      if (outage) {
        response.socket?.destroy();
        return;
      }
      const now = Math.floor(Date.now() / 1000);
      if (now !== second) [second, used] = [now, 0];
      used++;
      if (requestsPerSecond !== null && used > requestsPerSecond) {
        response.set('Retry-After', '1');
        throw new Problem(
          429,
          'Too many requests',
          `At most ${requestsPerSecond} requests a second are answered.`,
        );
      }
      if (errorRate > 0 && Math.random() < errorRate) {
        throw new Problem(500, 'Internal error', 'This failure was asked for by the dials.');
      }
      next();
    };
  }
}

function readDials(body: unknown): Partial<Dials> {
  const given = typeof body === 'object' && body !== null ? (body as Record<string, unknown>) : {};
  const { latencyMs, errorRate, requestsPerSecond, outage, disorder } = given;
  const wrong =
    (latencyMs !== undefined && !(typeof latencyMs === 'number' && latencyMs >= 0 && latencyMs <= 60_000)) ||
    (errorRate !== undefined && !(typeof errorRate === 'number' && errorRate >= 0 && errorRate <= 1)) ||
    (requestsPerSecond !== undefined &&
      requestsPerSecond !== null &&
      !(typeof requestsPerSecond === 'number' && requestsPerSecond >= 1)) ||
    (outage !== undefined && typeof outage !== 'boolean') ||
    (disorder !== undefined && !(typeof disorder === 'number' && disorder >= 0 && disorder <= 1));
  if (wrong)
    throw new Problem(
      422,
      'Not valid',
      'latencyMs, errorRate, requestsPerSecond, outage or disorder is out of range.',
    );
  return given as Partial<Dials>;
}

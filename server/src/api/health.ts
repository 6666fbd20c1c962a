import type { RequestHandler, Router } from 'express';
import { isDatabaseAway, type Pool } from '../db/pool';
import { readQueue } from '../inbox/inbox';
import { readHealth } from '../systems/states';

/** Whether this process answers at all; nothing else is asked. */
const live: RequestHandler = (_request, response) => {
  response.json({ ok: true });
};

/** Whether work can be done: how much waits, how old the oldest is, and how the systems stand. 503 while the database is away. */
const ready =
  (pool: Pool): RequestHandler =>
  async (_request, response) => {
    try {
      const [queue, systems] = [await readQueue(pool), await readHealth(pool)];
      response.json({
        ok: true,
        ...queue,
        systems: systems.map(({ system, standing, waiting }) => ({ system, standing, waiting })),
      });
    } catch (thrown) {
      if (!isDatabaseAway(thrown)) throw thrown;
      response.status(503).json({ ok: false, because: 'The database does not answer.' });
    }
  };

/** For whoever watches over the processes; no secrets, no names of records. */
export function healthRoutes(router: Router, pool: Pool): void {
  router.get('/health/live', live);
  router.get(['/health', '/health/ready'], ready(pool));
}

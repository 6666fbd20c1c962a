import { timingSafeEqual, createHash } from 'node:crypto';
import type { RequestHandler } from 'express';
import { Gauge, type Registry } from 'prom-client';
import type { Pool } from '../db/pool';
import { readQueue } from '../inbox/inbox';
import { countUnfinished } from '../jobs/repository';
import { countMessages } from '../messages/log';
import { readCounted } from '../metrics/metrics';
import { readHealth } from '../systems/states';
import { listHeld } from '../waits/held';

const digest = (text: string) => createHash('sha256').update(text).digest();

/** What stands how just now, beside what was counted. */
async function addGauges(registry: Registry, pool: Pool): Promise<void> {
  const gauge = (name: string, help: string, labelNames: readonly string[] = []) =>
    new Gauge({ name: `vast_knot_${name}`, help, labelNames: [...labelNames], registers: [registry] });
  const [queue, systems, held, messages, jobs] = await Promise.all([
    readQueue(pool),
    readHealth(pool),
    listHeld(pool),
    countMessages(pool, 'waiting'),
    countUnfinished(pool),
  ]);
  gauge('waiting_events', 'Events that wait to be handled.').set(queue.waiting);
  gauge('oldest_waiting_event_seconds', 'How long the oldest of them has waited.').set(
    queue.oldestSeconds ?? 0,
  );
  gauge('held_changes', 'Changes that wait for rules which are paused.').set(
    held.reduce((sum, each) => sum + each.held, 0),
  );
  gauge('waiting_messages', 'Messages that are not delivered yet.').set(messages);
  gauge('jobs', 'Long work that has not ended.').set(jobs);
  const up = gauge('system_up', 'Whether a system answers: 1 where it does, 0 where it is away.', ['system']);
  const waits = gauge('system_waiting_events', 'Events that wait for a system.', ['system']);
  for (const { system, standing, waiting } of systems) {
    up.set({ system }, standing === 'away' ? 0 : 1);
    waits.set({ system }, waiting);
  }
}

/**
 * What is counted and measured, in the text format of Prometheus (exposition formats 0.0.4). It is read with a token, as `Authorization:
 * Bearer …`; without one in the settings there is no such address.
 */
export function metricsRoute(pool: Pool, token: string): RequestHandler {
  const wanted = digest(`Bearer ${token}`);
  return async (request, response) => {
    // Digests have one length, so that the time of comparing tells nothing.
    if (!timingSafeEqual(digest(request.get('authorization') ?? ''), wanted)) {
      response.set('www-authenticate', 'Bearer').status(401).end();
      return;
    }
    const registry = await readCounted(pool);
    await addGauges(registry, pool);
    response.type(registry.contentType).send(await registry.metrics());
  };
}

import express, { Router, type ErrorRequestHandler } from 'express';
import { Webhook } from 'standardwebhooks';
import type { Config } from '../config/config';
import type { Pool } from '../db/pool';
import { HttpProblem } from '../http/problem';
import type { RegistrySource } from '../registry/registry';
import { keepRejected } from '../inbox/inbox';
import { Intake } from '../intake/intake';
import { readEvent } from '../intake/readEvent';

/**
 * Returns where systems send their change events: signed as Standard Webhooks asks, in the form of CloudEvents. Whatever is
 * not taken is answered with the reason and kept.
 */
export function intakeRoutes(pool: Pool, registry: RegistrySource, config: Config): Router {
  const router = Router();
  const intake = new Intake(pool, registry);
  router.use(express.text({ type: () => true, limit: config.bodyLimit, defaultCharset: 'utf-8' }));

  router.post('/:system', async (request, response) => {
    const { system } = request.params;
    const body = typeof request.body === 'string' ? request.body : '';
    const refuse = async (status: number, state: 'malformed' | 'refused', title: string, because: string) => {
      await keepRejected(pool, { system: system.slice(0, 80), state, because, body });
      throw new HttpProblem(status, title, because);
    };

    const { connectors, webhookSecrets, catalog } = await registry.recent();
    const connector = connectors.get(system);
    const definition = catalog.system(system);
    if (!connector || !definition)
      return refuse(404, 'refused', 'Unknown system', `There is no system “${system}”.`);
    const headers = singleHeaders(request.headers);
    const signature = verify(webhookSecrets.get(system) ?? '', headers, body);
    if (signature !== 'good') return refuse(401, 'refused', 'Not signed', signature);

    const idFields = new Map(definition.recordTypes.map((type) => [type.name, type.idField]));
    const read = readEvent({
      system,
      style: connector.events,
      idFields,
      headers,
      body,
      receivedAt: new Date(),
    });
    if (!read.ok) return refuse(400, 'malformed', 'Not understood', read.because);
    const id = await intake.take(read.event);
    response
      .status(202)
      .json(id === undefined ? { taken: false, because: 'It was taken before.' } : { taken: true, id });
  });

  const tooLarge: ErrorRequestHandler = (error: unknown, request, _response, next) => {
    if (typeof error !== 'object' || error === null || !('status' in error) || error.status !== 413)
      return next(error);
    const because = `A body of more than ${config.bodyLimit} bytes is not taken.`;
    keepRejected(pool, { system: request.path.slice(1, 81), state: 'refused', because, body: undefined })
      .then(() => next(new HttpProblem(413, 'Too large', because)))
      .catch(next);
  };
  router.use(tooLarge);
  return router;
}

function singleHeaders(
  headers: Readonly<Record<string, string | string[] | undefined>>,
): Record<string, string> {
  return Object.fromEntries(
    Object.entries(headers).flatMap(([name, value]) =>
      value === undefined ? [] : [[name, Array.isArray(value) ? value.join(', ') : value]],
    ),
  );
}

/** Checks a Standard Webhooks signature: HMAC-SHA256 over id, time and body, not older than five minutes. */
function verify(secret: string, headers: Record<string, string>, body: string): string {
  if (secret === '') return 'This system has no signing secret yet.';
  if (headers['webhook-signature'] === undefined)
    return 'The signature is missing (webhook-id, webhook-timestamp, webhook-signature).';
  try {
    new Webhook(secret).verify(body, headers, { jsonParse: false });
    return 'good';
  } catch (thrown) {
    // The package throws for every way in which a signature can be wrong.
    return `The signature is wrong: ${thrown instanceof Error ? thrown.message : String(thrown)}.`;
  }
}

import express, { Router, type ErrorRequestHandler, type Request } from 'express';
import type { Config } from '../config/config';
import { singleHeaders } from '../connector/http/singleHeaders';
import { notSigned } from '../connector/signing';
import { storable } from '../db/storable';
import type { Pool } from '../db/pool';
import { HttpProblem, TryLater } from '../http/problem';
import type { Outside, RegistrySource } from '../registry/registry';
import { keepRejected } from '../inbox/inbox';
import { Intake } from '../intake/intake';
import { readEvent } from '../intake/readEvent';
import { MessageRate, Rejections } from '../intake/rejections';

/** Seconds after which a sender is asked to try again. */
const laterSeconds = 10;

/**
 * Returns where systems send their change events, signed as their connection says, in the form of CloudEvents. Whatever is not taken is
 * answered with the reason and kept, as far as a budget for each system goes.
 */
export function intakeRoutes(
  pool: Pool,
  registry: RegistrySource,
  config: Config,
  came: Outside['came'] = () => undefined,
): Router {
  const router = Router();
  const intake = new Intake(pool, registry);
  const rejections = new Rejections();
  const rate = new MessageRate(config.intakePerSecond);
  router.use(express.raw({ type: () => true, limit: config.bodyLimit }));

  /** Keeps what is not taken, and gives the answer to it. */
  const reject = async (
    system: string,
    { status, title, because, body }: { status: number; title: string; because: string; body?: string },
  ): Promise<HttpProblem> => {
    const key = system.slice(0, 80);
    // What a stranger sends in the name of a system does not count for the system.
    const what = rejections.note(status === 400 ? `${key}, signed` : key);
    if (what === 'later') {
      const sentence = `Too many messages for “${key}” could not be taken in the last minute; this one neither: ${because}`;
      return new TryLater(laterSeconds, 429, 'Too many', sentence);
    }
    const state = status === 400 ? 'malformed' : 'refused';
    if (what === 'keep') await keepRejected(pool, { system: key, state, because, body });
    return new HttpProblem(status, title, because);
  };

  router.post('/:system', async (request, response) => {
    const { system } = request.params;
    const { connectors, webhookSecrets, catalog } = await registry.recent();
    const connector = connectors.get(system);
    const definition = catalog.system(system);
    const body = bodyOf(request);
    const headers = singleHeaders(request.headers);
    const began = Date.now();
    const tell = (what: 'taken' | 'refused', status: number, answer: string) => {
      if (!definition) return;
      const { method, originalUrl: url } = request;
      const exchanged = {
        at: new Date(began).toISOString(),
        method,
        url,
        requestHeaders: withoutSignIn(headers),
        requestBody: body,
        status,
        answerHeaders: {},
        answerBody: answer,
        milliseconds: Date.now() - began,
        problem: '',
      };
      came(definition, { exchanged, secret: webhookSecrets.get(system) ?? '' }, what);
    };
    const refuse = async (status: number, title: string, because: string) => {
      tell('refused', status, JSON.stringify({ because }));
      throw await reject(system, { status, title, because, body });
    };
    if (!connector || !definition)
      return refuse(404, 'Unknown system', `There is no system “${printable(system)}”.`);
    const { told } = connector;
    if (!told)
      return refuse(404, 'Not told', `The connection of “${printable(system)}” says nothing of messages.`);
    const { signing = { kind: 'standard webhooks' } } = told;
    const secret = webhookSecrets.get(system) ?? '';
    const unsigned = notSigned(signing, secret, { headers, body, now: new Date() });
    if (unsigned !== undefined) return refuse(401, 'Not signed', unsigned);
    if (!rate.passes(system)) {
      const because = `More than ${config.intakePerSecond} messages a second came from “${system}”.`;
      throw new TryLater(1, 429, 'Too many', because);
    }
    const idFields = new Map(definition.recordTypes.map((type) => [type.name, type.idField]));
    const receivedAt = new Date();
    const read = readEvent({ system, style: told, idFields, headers, body, receivedAt });
    if (!read.ok) return refuse(400, 'Not understood', read.because);
    const id = await intake.take(read.event);
    const answer = JSON.stringify(
      id === undefined ? { taken: false, because: 'It was taken before.' } : { taken: true, id },
    );
    tell('taken', 202, answer);
    // Without a tag, which nobody would ask for again.
    response.writeHead(202, { 'content-type': 'application/json' }).end(answer);
  });

  const tooLarge: ErrorRequestHandler = (error: unknown, request, _response, next) => {
    if (typeof error !== 'object' || error === null || !('status' in error) || error.status !== 413)
      return next(error);
    const because = `A body of more than ${config.bodyLimit} bytes is not taken.`;
    reject(request.path.slice(1), { status: 413, title: 'Too large', because }).then(next, next);
  };
  router.use(tooLarge);
  return router;
}

/** Returns headers to be shown: what one signs in with is not. */
function withoutSignIn({
  authorization: _authorization,
  cookie: _cookie,
  ...shown
}: Readonly<Record<string, string>>): Record<string, string> {
  return shown;
}

/** Returns the body as text, as it was signed. */
function bodyOf({ body }: Request): string {
  return Buffer.isBuffer(body) ? body.toString('utf8') : '';
}

function printable(text: string): string {
  return storable(text.slice(0, 80));
}

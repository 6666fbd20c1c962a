import express, { type ErrorRequestHandler, type Express, type Request, type Response } from 'express';
import { timingSafeEqual } from 'node:crypto';
import type { DialBoard } from './dials';
import type { Document, RecordDefinition, StoredDocument } from './definition';
import { openApi } from './openApi';
import { Problem } from './problem';
import type { Store } from './store';

/** Returns an application's HTTP API, in its own dialect. */
export function createApi(store: Store, dials: DialBoard, token: string, secret = ''): Express {
  const { application } = store;
  const { dialect } = application;
  const app = express();
  app.disable('x-powered-by');
  app.set('etag', false);
  receive(app, store, dials, secret);
  app.use(express.json({ limit: '8mb', type: ['application/json', 'application/merge-patch+json'] }));

  app.get('/openapi.json', (_request, response) => void response.json(openApi(application)));
  app.use((request, _response, next) => {
    const value = request.get(dialect.auth.header) ?? '';
    if (!dialect.auth.accepts(value, token))
      throw new Problem(401, 'Not signed in', `${dialect.auth.header} is wrong.`);
    next();
  });
  app.get('/dials', (_request, response) => void response.json(dials.current));
  app.put('/dials', async (request, response) => void response.json(await dials.turn(request.body)));
  app.put('/webhooks', async (request, response) => {
    const { url, secret } = readSubscription(request.body);
    await store.pool.query(
      `INSERT INTO subscriptions (url, secret) VALUES ($1, $2) ON CONFLICT (url) DO UPDATE SET secret = EXCLUDED.secret`,
      [url, secret],
    );
    response.status(204).end();
  });

  app.use(dials.middleware());
  for (const record of application.records) recordRoutes(app, store, record);
  app.use((request) => {
    throw new Problem(404, 'Not found', `There is nothing at ${request.path}.`);
  });
  app.use(answerProblem);
  return app;
}

/** Takes signed messages, for an application that receives some; the dials make it fail as they do the rest. */
function receive(app: Express, store: Store, dials: DialBoard, secret: string): void {
  const { receiver, records } = store.application;
  const record = records.find(({ type }) => type === receiver?.recordType);
  if (!receiver || !record) return;
  app.post(
    receiver.path,
    dials.middleware(),
    express.text({ type: () => true, limit: '1mb', defaultCharset: 'utf-8' }),
    async (request, response) => {
      const headers = Object.fromEntries(
        Object.entries(request.headers).map(([name, value]) => [name, [value].flat().join(', ')]),
      );
      const body = typeof request.body === 'string' ? request.body : '';
      const { doc, taken } = receiver.read({ headers, body }, secret);
      // The same message, sent again because its answer was lost, is kept once.
      const stored = await store.create(record, doc, taken ? `received ${headers['webhook-id']}` : undefined);
      response.status(taken ? 202 : 401).json({ kept: stored.id, signature: doc['signature'] });
    },
  );
}

function recordRoutes(app: Express, store: Store, record: RecordDefinition): void {
  const { dialect } = store.application;
  const base = `${dialect.base}/${record.path}`;
  const answer = (response: Response, stored: StoredDocument, status = 200) => {
    response.status(status).set('ETag', `"${stored.version}"`).json(store.dress(stored));
  };

  app.get(base, async (request, response) => {
    const { list } = dialect;
    const filters = list.filters(request.query);
    if (typeof filters === 'string') throw new Problem(400, 'Unknown filter', filters);
    const limit = Number(request.query[list.limit] ?? 50);
    if (!Number.isInteger(limit) || limit < 1 || limit > 500) {
      throw new Problem(400, 'Not valid', `${list.limit} is a whole number from 1 to 500.`);
    }
    const cursor = text(request.query[list.cursor]);
    const listing = {
      filters,
      search: text(request.query[list.search]),
      limit,
      after: cursor === undefined ? undefined : Buffer.from(cursor, 'base64url').toString('utf8'),
    };
    const { records, next } = await store.list(record, listing);
    const nextCursor = next === null ? null : Buffer.from(next, 'utf8').toString('base64url');
    response.json(
      list.body(
        records.map((stored) => store.dress(stored)),
        nextCursor,
      ),
    );
  });

  app[dialect.bulk.method](`${dialect.base}/${dialect.bulk.path(record.path)}`, async (request, response) => {
    const items = dialect.bulk.items(request.body);
    if (typeof items === 'string') throw new Problem(422, 'Not valid', items);
    if (items.length > 500)
      throw new Problem(413, 'Too many items', 'At most 500 items are taken at a time.');
    const results = await store.patch(record, items);
    response.json(
      dialect.bulk.body(
        results.map((result) => ({
          id: result.id,
          status: result.status,
          body: 'record' in result ? store.dress(result.record) : result.problem,
        })),
      ),
    );
  });

  app.get(`${base}/:id`, async (request, response) => {
    const stored = await store.get(record, request.params.id);
    if (!stored)
      throw new Problem(404, 'Not found', `There is no ${record.title.toLowerCase()} ${request.params.id}.`);
    answer(response, stored);
  });

  app.post(base, async (request, response) => {
    answer(response, await store.create(record, documentOf(request), request.get('Idempotency-Key')), 201);
  });

  app.delete(`${base}/:id`, async (request, response) => {
    await store.remove(record, request.params.id, request.get('If-Match'));
    response.status(204).end();
  });

  app.patch(`${base}/:id`, async (request, response) => {
    const [result] = await store.patch(record, [
      {
        id: request.params.id,
        ifMatch: request.get('If-Match'),
        key: request.get('Idempotency-Key'),
        changes: documentOf(request),
      },
    ]);
    if (result && 'record' in result) answer(response, result.record);
    else
      response
        .status(result?.status ?? 500)
        .type('application/problem+json')
        .json(result?.problem);
  });
}

function documentOf(request: Request): Document {
  const body: unknown = request.body;
  if (typeof body !== 'object' || body === null || Array.isArray(body)) {
    throw new Problem(422, 'Not valid', 'The body must be a JSON object.');
  }
  return body as Document;
}

function readSubscription(body: unknown): { url: string; secret: string } {
  const { url, secret } = (body ?? {}) as Record<string, unknown>;
  if (
    typeof url !== 'string' ||
    !URL.canParse(url) ||
    typeof secret !== 'string' ||
    !secret.startsWith('whsec_')
  ) {
    throw new Problem(422, 'Not valid', 'A subscription has a url and a secret that begins with whsec_.');
  }
  return { url, secret };
}

function text(value: unknown): string | undefined {
  return typeof value === 'string' && value !== '' ? value : undefined;
}

/** Compares secrets without telling by time how much of one was right. */
export function sameSecret(given: string, wanted: string): boolean {
  const a = Buffer.from(given);
  const b = Buffer.from(wanted);
  return a.length === b.length && timingSafeEqual(a, b);
}

// Express knows an error handler by its four parameters.
const answerProblem: ErrorRequestHandler = (error: unknown, _request, response, _next) => {
  const problem = asProblem(error);
  response.status(problem.status).type('application/problem+json').json(problem.body());
};

function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error;
  const status =
    typeof error === 'object' && error !== null && 'status' in error ? Number(error.status) : 500;
  const detail = error instanceof Error ? error.message : String(error);
  return new Problem(
    status >= 400 && status < 600 ? status : 500,
    status === 413 ? 'Too large' : 'Failed',
    detail,
  );
}

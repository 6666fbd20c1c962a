import { Router } from 'express';
import Joi from 'joi';
import type { EndpointView, MessageDetail, MessagePage, MessageSummary } from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Pool } from '../db/pool';
import { HttpProblem, notFound, parsed } from '../http/problem';
import type { RegistryCache } from '../registry/registry';
import { queueMessages } from '../messages/repository';

const pageSize = 100;
const listQuery = Joi.object<{ state?: string; run?: string; search?: string; before?: string }>({
  state: Joi.valid('waiting', 'delivered', 'given up'),
  run: Joi.string().pattern(/^\d{1,18}$/),
  search: Joi.string().allow('').max(200),
  before: Joi.string().pattern(/^\d{1,18}$/),
});

const summary = `id, run_id AS "runId", rule, endpoint, type, state, attempts, created_at AS "createdAt",
  json_build_object('system', system, 'recordType', record_type, 'id', record_id) AS ref,
  CASE WHEN state = 'waiting' THEN next_at END AS "nextAt",
  CASE WHEN state = 'waiting' AND EXISTS (
      SELECT 1 FROM messages AS earlier
      WHERE earlier.state = 'waiting' AND earlier.seq < messages.seq AND earlier.endpoint = messages.endpoint
        AND (earlier.system, earlier.record_type, earlier.record_id) = (messages.system, messages.record_type, messages.record_id))
    THEN 'Waits for an earlier message about the same record.'
    ELSE (SELECT coalesce(problem, answer) FROM message_attempts WHERE message_id = id ORDER BY attempt DESC LIMIT 1)
  END AS last`;

/** Messages that rules sent: the delivery log, and resending by hand. */
export function messageRoutes(pool: Pool): Router {
  const router = Router();
  router.param('id', (_request, _response, next, id: string) => {
    next(/^[0-9a-f-]{36}$/.test(id) ? undefined : notFound('such message'));
  });

  router.get('/', async (request, response) => {
    const { state, run, search, before } = parsed(listQuery, request.query);
    const { rows } = await pool.query<MessageSummary & { seq: string }>(
      `SELECT seq, ${summary} FROM messages
       WHERE ($1::text IS NULL OR state = $1) AND ($2::bigint IS NULL OR run_id = $2)
         AND ($3::text IS NULL OR concat_ws(' ', type, rule, record_id, body->>'data') ILIKE '%' || $3 || '%')
         AND ($4::bigint IS NULL OR seq < $4)
       ORDER BY seq DESC LIMIT ${pageSize + 1}`,
      [state ?? null, run ?? null, search === '' ? null : (search ?? null), before ?? null],
    );
    const shown = rows.slice(0, pageSize);
    const next = rows.length > pageSize ? (shown.at(-1)?.seq ?? null) : null;
    const messages = shown.map(({ seq: _seq, ...message }) => message);
    response.json({ messages, next } satisfies MessagePage);
  });

  router.get('/:id', async (request, response) => {
    const { rows } = await pool.query<MessageDetail>(
      `SELECT ${summary}, body, coalesce((SELECT json_agg(json_build_object(
           'at', at, 'status', status, 'answer', answer, 'problem', problem) ORDER BY attempt)
         FROM message_attempts WHERE message_id = id), '[]') AS tries
       FROM messages WHERE id = $1`,
      [request.params.id],
    );
    if (!rows[0]) throw notFound('such message');
    response.json(rows[0]);
  });

  router.post('/:id/resend', async (request, response) => {
    const { id } = request.params;
    await inTransaction(pool, async (client) => {
      const { rowCount } = await client.query(
        `UPDATE messages SET state = 'waiting', next_at = now() WHERE id = $1`,
        [id],
      );
      if (rowCount !== 1) throw notFound('such message');
      await queueMessages(client, [id], new Date());
      await tell(client, { kind: 'message', id, state: 'waiting' });
    });
    response.status(202).json({});
  });
  return router;
}

const endpointBody = Joi.object<{ name: string; url: string; secret?: string }>({
  name: Joi.string().max(80).required(),
  url: Joi.string()
    .uri({ scheme: ['http', 'https'] })
    .max(500)
    .required(),
  secret: Joi.string()
    .pattern(/^whsec_[A-Za-z0-9+/=]{24,}$/, 'a signing secret such as whsec_…')
    .max(200),
});

/** The outside addresses that messages can be sent to; their secrets stay here. */
export function endpointRoutes(pool: Pool, registry: RegistryCache, seal: (text: string) => Buffer): Router {
  const router = Router();
  router.get('/', async (_request, response) => {
    const { endpoints } = await registry.get();
    response.json([...endpoints.values()].map(({ key, name, url }): EndpointView => ({ key, name, url })));
  });

  router.put('/:key', async (request, response) => {
    const { key } = request.params;
    if (!/^[a-z][a-z0-9-]{0,39}$/.test(key))
      throw new HttpProblem(422, 'Not valid', 'A key has small letters, digits and hyphens.');
    const { name, url, secret } = parsed(endpointBody, request.body);
    const known = (await registry.get()).endpoints.has(key);
    if (!known && secret === undefined)
      throw new HttpProblem(422, 'Not valid', 'A new endpoint needs a signing secret.');
    await pool.query(
      secret === undefined
        ? 'UPDATE endpoints SET name = $2, url = $3 WHERE key = $1'
        : `INSERT INTO endpoints (key, name, url, sealed) VALUES ($1, $2, $3, $4)
           ON CONFLICT (key) DO UPDATE SET name = EXCLUDED.name, url = EXCLUDED.url, sealed = EXCLUDED.sealed`,
      secret === undefined ? [key, name, url] : [key, name, url, seal(secret)],
    );
    response.json({ key, name, url } satisfies EndpointView);
  });
  return router;
}

import Joi from 'joi';
import type { EndpointView, MessagePage } from '@vast-knot/core';
import { keepEndpoint } from '../endpoints/repository';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { listMessages, readMessageDetail, resendMessage, type MessageFilter } from '../messages/log';
import { uuidOf } from './params';
import { get, post, put, type Handle, type Route } from './route';

const pageSize = 100;
const filter = Joi.object<MessageFilter>({
  state: Joi.valid('waiting', 'delivered', 'given up'),
  run: Joi.string().pattern(/^\d{1,18}$/),
  search: Joi.string().allow('').max(200),
  before: Joi.string().pattern(/^\d{1,18}$/),
});

const list: Handle<'/messages'> = async (request, response, { pool }) => {
  const rows = await listMessages(pool, parsed(filter, request.query), pageSize + 1);
  const shown = rows.slice(0, pageSize);
  const next = rows.length > pageSize ? (shown.at(-1)?.seq ?? null) : null;
  const messages = shown.map(({ seq: _seq, ...message }) => message);
  response.json({ messages, next } satisfies MessagePage);
};

const read: Handle<'/messages/:id'> = async (request, response, { pool }) => {
  const message = await readMessageDetail(pool, uuidOf(request.params.id, 'message'));
  if (!message) throw notFound('such message');
  response.json(message);
};

const resend: Handle<'/messages/:id/resend'> = async (request, response, { pool }) => {
  if (!(await resendMessage(pool, uuidOf(request.params.id, 'message')))) throw notFound('such message');
  response.status(202).json({});
};

/** Messages that rules sent: the delivery log, and sending again by hand. */
export const messageRoutes: readonly Route[] = [
  get('/messages', 'messages.read', list),
  get('/messages/:id', 'messages.read', read),
  post('/messages/:id/resend', 'messages.resend', resend),
];

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

const endpoints: Handle<'/endpoints'> = async (_request, response, { registry }) => {
  const current = await registry.get();
  response.json(
    [...current.endpoints.values()].map(({ key, name, url }): EndpointView => ({ key, name, url })),
  );
};

const changeEndpoint: Handle<'/endpoints/:key'> = async (request, response, { pool, registry, seal }) => {
  const { key } = request.params;
  if (!/^[a-z][a-z0-9-]{0,39}$/.test(key))
    throw new HttpProblem(422, 'Not valid', 'A key has small letters, digits and hyphens.');
  const { name, url, secret } = parsed(endpointBody, request.body);
  const known = (await registry.get()).endpoints.has(key);
  if (!known && secret === undefined)
    throw new HttpProblem(422, 'Not valid', 'A new endpoint needs a signing secret.');
  await keepEndpoint(pool, seal, { key, name, url, secret });
  response.json({ key, name, url } satisfies EndpointView);
};

/** The outside addresses that messages can be sent to; their secrets stay here. */
export const endpointRoutes: readonly Route[] = [
  get('/endpoints', 'endpoints.read', endpoints),
  put('/endpoints/:key', 'endpoints.change', changeEndpoint),
];

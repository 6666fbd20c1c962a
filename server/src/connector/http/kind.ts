import Joi from 'joi';
import type { ConnectorKind } from '../connector';
import { eventStyleSchema, pointer } from '../events';
import { HttpConnector } from './connector';
import { filterStyles } from './filters';
import type { HttpConnection } from './httpConnection';

const text = Joi.string().required();

const schema: Joi.ObjectSchema<HttpConnection> = Joi.object<HttpConnection>({
  kind: Joi.valid('http').required(),
  baseUrl: Joi.string()
    .uri({ scheme: ['http', 'https'] })
    .required(),
  auth: Joi.object({ header: text, value: text }).required(),
  version: Joi.object({ field: text, ifMatch: Joi.string() }),
  document: Joi.string().pattern(/^\//),
  recordTypes: Joi.object()
    .pattern(Joi.string(), Joi.object({ path: text }))
    .required(),
  list: Joi.object({
    items: pointer.required(),
    next: pointer.required(),
    cursor: text,
    limit: Joi.object({ name: text, most: Joi.number().integer().min(1).required() }).required(),
    search: text,
    filter: Joi.alternatives(...Object.values(filterStyles).map((style) => style.schema)).required(),
    manyById: Joi.boolean(),
  }).required(),
  bulk: Joi.object({
    method: Joi.valid('PATCH', 'POST', 'PUT').required(),
    path: text,
    items: text,
    item: Joi.object().pattern(Joi.string(), Joi.string()).required(),
    results: pointer.required(),
    status: pointer.required(),
    record: pointer.required(),
    problem: pointer.required(),
    size: Joi.number().integer().min(1).max(1000).required(),
  }).required(),
  create: Joi.object({ method: Joi.valid('POST', 'PUT').required(), path: text, keyHeader: text }),
  remove: Joi.object({
    method: Joi.valid('DELETE', 'PATCH', 'POST').required(),
    path: text,
    body: Joi.object(),
  }),
  limits: Joi.object({
    requestsAtOnce: Joi.number().integer().min(1).max(64),
    requestsPerSecond: Joi.number().min(0.1).max(10_000),
    patienceSeconds: Joi.number().integer().min(1).max(300),
  }),
  events: eventStyleSchema.required(),
  subscribe: Joi.object({
    method: Joi.valid('PUT', 'POST').required(),
    path: text,
    body: Joi.object().pattern(Joi.string(), Joi.string()).required(),
  }),
});

export const httpKind: ConnectorKind<HttpConnection> = {
  kind: 'http',
  meaning: 'An application with an HTTP/JSON API that sends signed events.',
  schema,
  open: (connection, parts) => new HttpConnector(connection, parts),
};

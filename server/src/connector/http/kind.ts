import Joi from 'joi';
import type { ConnectorKind } from '../connector';
import { eventStyleSchema, pointer, type EventStyle } from '../events';
import { HttpConnector } from './connector';
import { filterStyles, type FilterStyle } from './filters';

/**
 * How a system with an HTTP/JSON API is spoken to, as data: a new system is a new description and no new code. Texts
 * in braces are filled in when a request is made; locations in answers are JSON Pointers (RFC 6901).
 */
export interface HttpConnection {
  readonly kind: 'http';
  readonly baseUrl: string;
  /** `{token}` stands for the secret. */
  readonly auth: { readonly header: string; readonly value: string };
  /** The field in which a record carries its version, and how `If-Match` says it. */
  readonly version?: { readonly field: string; readonly ifMatch: string };
  /** Where the system describes itself, as an OpenAPI document below its address. */
  readonly document?: string;
  readonly recordTypes: Readonly<Record<string, { readonly path: string }>>;
  readonly list: {
    readonly items: string;
    readonly next: string;
    readonly cursor: string;
    readonly limit: { readonly name: string; readonly most: number };
    readonly search: string;
    readonly filter: FilterStyle;
  };
  readonly bulk: {
    readonly method: 'PATCH' | 'POST' | 'PUT';
    /** `{path}` stands for the path of the record type. */
    readonly path: string;
    /** Member of the body that holds the items. */
    readonly items: string;
    /** `{id}`, `{ifMatch}`, `{key}` and `{changes}` are filled in. */
    readonly item: Readonly<Record<string, string>>;
    readonly results: string;
    readonly status: string;
    readonly record: string;
    readonly problem: string;
    /** Items sent at a time. */
    readonly size: number;
  };
  /** How a record is created; without it none can be. `{path}` stands for the path of the record type. */
  readonly create?: {
    readonly method: 'POST' | 'PUT';
    readonly path: string;
    /** The header that carries the key by which a repeated request is known. */
    readonly keyHeader: string;
  };
  /** How a record is removed, or retired; without it none can be. `{path}` and `{id}` are filled in. */
  readonly remove?: {
    readonly method: 'DELETE' | 'PATCH' | 'POST';
    readonly path: string;
    /** What is sent, for a system in which records are retired by a change. */
    readonly body?: Readonly<Record<string, unknown>>;
  };
  readonly events: EventStyle;
  /** How the system is asked to send its events; `{url}` and `{secret}` are filled in. */
  readonly subscribe?: {
    readonly method: 'PUT' | 'POST';
    readonly path: string;
    readonly body: Readonly<Record<string, string>>;
  };
}

const text = Joi.string().required();

const schema: Joi.ObjectSchema<HttpConnection> = Joi.object<HttpConnection>({
  kind: Joi.valid('http').required(),
  baseUrl: Joi.string()
    .uri({ scheme: ['http', 'https'] })
    .required(),
  auth: Joi.object({ header: text, value: text }).required(),
  version: Joi.object({ field: text, ifMatch: text }),
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

import Joi from 'joi';
import type { Json } from '../model/json';
import {
  ownStyleSchema,
  recordTypeStyleSchema,
  type OwnStyle,
  type RecordTypeStyle,
} from './recordTypeStyle';
import { signInSchema, type SignIn } from './signIn';
import { headerName, pathTemplate } from './style';
import { tellingSchema, type Telling } from './told';

/** How much may be asked of a system; without these, eight requests at once, and twenty seconds for an answer. */
export interface Limits {
  readonly requestsAtOnce?: number;
  readonly requestsPerSecond?: number;
  readonly patienceSeconds?: number;
}

/** How a system is asked to send its events. */
export interface Subscribing {
  readonly method: 'PUT' | 'POST';
  readonly path: string;
  /** `{url}` and `{secret}` are filled in. */
  readonly body: Readonly<Record<string, Json>>;
}

/**
 * How a system with an HTTP/JSON API is spoken to, as data: a new system is a new description and no new code. What is usual is said
 * once, and what a record type has of its own beside it.
 */
export interface HttpConnection {
  readonly kind: 'http';
  /** The version of this format. */
  readonly format: 2;
  readonly baseUrl: string;
  readonly signIn: SignIn;
  /** Headers of every request; secrets do not belong here. */
  readonly headers?: Readonly<Record<string, string>>;
  /** Where the system describes itself, as an OpenAPI document: below its address, or a whole address. */
  readonly document?: string;
  readonly usual: RecordTypeStyle;
  readonly recordTypes: Readonly<Record<string, OwnStyle>>;
  readonly limits?: Limits;
  /** How its messages are read; without it, it tells nothing by itself. */
  readonly told?: Telling;
  readonly subscribe?: Subscribing;
}

export const limitsSchema = Joi.object<Limits>({
  requestsAtOnce: Joi.number().integer().min(1).max(64),
  requestsPerSecond: Joi.number().min(0.1).max(10_000),
  patienceSeconds: Joi.number().integer().min(1).max(300),
});

export const baseUrlSchema = Joi.string()
  .uri({ scheme: ['http', 'https'] })
  .max(500);

export const httpConnectionSchema: Joi.ObjectSchema<HttpConnection> = Joi.object<HttpConnection>({
  kind: Joi.valid('http').required(),
  format: Joi.valid(2).required(),
  baseUrl: baseUrlSchema.required(),
  signIn: signInSchema.required(),
  headers: Joi.object().pattern(headerName, Joi.string().max(500)),
  document: Joi.string()
    .max(500)
    .pattern(/^(\/|https?:\/\/)/, 'a path or an address'),
  usual: recordTypeStyleSchema.required(),
  recordTypes: Joi.object().pattern(Joi.string().max(120), ownStyleSchema).required(),
  limits: limitsSchema,
  told: tellingSchema,
  subscribe: Joi.object<Subscribing>({
    method: Joi.valid('PUT', 'POST').required(),
    path: pathTemplate.required(),
    body: Joi.object().required(),
  }),
});

/** The style of a record type with its path: what is usual, and what it has of its own. */
export interface TypeStyle extends RecordTypeStyle {
  readonly path: string;
}

/** Returns how records of a type are read and written; undefined for a type of which the connection says nothing. */
export function styleOf({ usual, recordTypes }: HttpConnection, type: string): TypeStyle | undefined {
  const own = Object.hasOwn(recordTypes, type) ? recordTypes[type] : undefined;
  if (!own) return undefined;
  const parts = Object.entries({ ...usual, ...own }).filter(([, part]) => part !== null);
  // What all have is in the usual style, and no type can be without it.
  return Object.fromEntries(parts) as unknown as TypeStyle;
}

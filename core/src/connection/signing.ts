import Joi from 'joi';
import { headerName } from './style';

/** How the messages of a system show who sent them. What is compared with is the secret that is kept for it. */
export type Signing =
  /** Standard Webhooks 1.0: an HMAC-SHA256 over id, time and body, not older than five minutes. */
  | { readonly kind: 'standard webhooks' }
  /** An HMAC in a header of the system's own. */
  | {
      readonly kind: 'hmac';
      readonly header: string;
      readonly hash: 'sha1' | 'sha256' | 'sha512';
      readonly encoding: 'hex' | 'base64';
      /** What stands in the header before the signature: `sha256=`. */
      readonly prefix?: string;
      /** What is signed; `{body}` and `{time}` are filled in. */
      readonly signed: string;
      /** The header with the time of sending, in seconds since 1970 or as a date of ISO 8601, and how old it may be. */
      readonly time?: { readonly header: string; readonly seconds: number };
    }
  /** The secret itself, in a header. */
  | { readonly kind: 'token'; readonly header: string; readonly prefix?: string }
  /** Nothing: whoever knows the address can tell of anything. */
  | { readonly kind: 'none' };

export const signingSchema = Joi.alternatives<Signing>(
  Joi.object({ kind: Joi.valid('standard webhooks').required() }),
  Joi.object({
    kind: Joi.valid('hmac').required(),
    header: headerName.required(),
    hash: Joi.valid('sha1', 'sha256', 'sha512').default('sha256'),
    encoding: Joi.valid('hex', 'base64').default('hex'),
    prefix: Joi.string().max(40),
    signed: Joi.string()
      .pattern(/\{body\}/, 'a text with {body}')
      .max(200)
      .default('{body}'),
    time: Joi.object({
      header: headerName.required(),
      seconds: Joi.number().integer().min(1).max(86_400).default(300),
    }),
  }),
  Joi.object({
    kind: Joi.valid('token').required(),
    header: headerName.required(),
    prefix: Joi.string().max(40),
  }),
  Joi.object({ kind: Joi.valid('none').required() }),
);

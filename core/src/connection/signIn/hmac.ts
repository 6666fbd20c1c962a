import Joi from 'joi';
import { headerName, type Style } from '../style';

/** Each request is signed with the secret. */
export interface HmacSignIn {
  readonly kind: 'hmac';
  readonly header: string;
  readonly hash: 'sha1' | 'sha256' | 'sha512';
  readonly encoding: 'hex' | 'base64';
  /** What is sent in the header: `{signature}` is filled in, and `{user}` is the name below. */
  readonly value: string;
  /** What is signed; `{method}`, `{path}`, `{time}` and `{body}` are filled in. */
  readonly signed: string;
  readonly user?: string;
  /** The header with the time of sending, in seconds since 1970. */
  readonly timeHeader?: string;
}

export const hmac: Style<HmacSignIn> = {
  kind: 'hmac',
  label: 'by signing each request',
  meaning: 'An HMAC of each request, made with the secret (RFC 2104), is sent in a header.',
  schema: Joi.object<HmacSignIn>({
    kind: Joi.valid('hmac').required(),
    header: headerName.required(),
    hash: Joi.valid('sha1', 'sha256', 'sha512').default('sha256'),
    encoding: Joi.valid('hex', 'base64').default('hex'),
    value: Joi.string()
      .max(200)
      .pattern(/\{signature\}/, 'a text with {signature}')
      .default('{signature}'),
    signed: Joi.string().max(200).default('{method}\n{path}\n{time}\n{body}'),
    user: Joi.string().max(200),
    timeHeader: headerName,
  }),
};

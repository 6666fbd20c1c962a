import Joi from 'joi';
import type { Style } from '../style';

/** `Authorization: Bearer …` (RFC 6750) */
export interface BearerSignIn {
  readonly kind: 'bearer';
}

export const bearer: Style<BearerSignIn> = {
  kind: 'bearer',
  label: 'with a bearer token',
  meaning: 'The secret is sent as “Authorization: Bearer …” (RFC 6750).',
  schema: Joi.object<BearerSignIn>({ kind: Joi.valid('bearer').required() }),
};

import Joi from 'joi';
import type { Style } from '../style';

/** `Authorization: Basic …` (RFC 7617) */
export interface BasicSignIn {
  readonly kind: 'basic';
  readonly user: string;
}

export const basic: Style<BasicSignIn> = {
  kind: 'basic',
  label: 'with a name and a password',
  meaning: 'Name and secret are sent as “Authorization: Basic …” (RFC 7617).',
  schema: Joi.object<BasicSignIn>({
    kind: Joi.valid('basic').required(),
    // RFC 7617, 2: the name may not hold a colon.
    user: Joi.string()
      .allow('')
      .max(200)
      .pattern(/^[^:]*$/, 'a name without a colon')
      .required(),
  }),
};

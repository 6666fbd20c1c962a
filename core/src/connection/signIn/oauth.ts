import Joi from 'joi';
import type { Style } from '../style';

/** OAuth 2.0 client credentials (RFC 6749, 4.4): a token is fetched, kept, and renewed before it ends. */
export interface OauthSignIn {
  readonly kind: 'oauth';
  /** The token endpoint: a whole address, or a path below that of the system. */
  readonly tokenAddress: string;
  readonly clientId: string;
  readonly scope?: string;
  readonly audience?: string;
  /** Where name and secret of the client stand: as HTTP Basic, or in the body (RFC 6749, 2.3.1). */
  readonly credentialsIn: 'header' | 'body';
}

export const oauth: Style<OauthSignIn> = {
  kind: 'oauth',
  label: 'with OAuth 2.0 client credentials',
  meaning: 'A token is fetched with the secret (RFC 6749, 4.4), kept, and renewed before it ends.',
  schema: Joi.object<OauthSignIn>({
    kind: Joi.valid('oauth').required(),
    tokenAddress: Joi.string()
      .max(500)
      .pattern(/^(\/|https?:\/\/)[^\s]*$/, 'an address or a path')
      .required(),
    clientId: Joi.string().max(200).required(),
    scope: Joi.string().max(500),
    audience: Joi.string().max(500),
    credentialsIn: Joi.valid('header', 'body').default('header'),
  }),
};

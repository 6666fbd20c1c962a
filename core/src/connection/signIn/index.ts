import { schemaOfFamily, type Style } from '../style';
import { basic, type BasicSignIn } from './basic';
import { bearer, type BearerSignIn } from './bearer';
import { header, type HeaderSignIn } from './header';
import { hmac, type HmacSignIn } from './hmac';
import { none, type NoSignIn } from './none';
import { oauth, type OauthSignIn } from './oauth';
import { query, type QuerySignIn } from './query';

export type { HmacSignIn } from './hmac';
export type { OauthSignIn } from './oauth';

/** How a system knows that it is us. The secret itself is kept elsewhere, and never shown. */
export type SignIn =
  NoSignIn | BearerSignIn | BasicSignIn | HeaderSignIn | QuerySignIn | OauthSignIn | HmacSignIn;

/** The ways of signing in, in the order in which they are offered. */
export const signIns: readonly Style<SignIn>[] = [
  none,
  bearer,
  basic,
  header,
  query,
  oauth,
  hmac,
] as readonly Style<SignIn>[];

export const signInSchema = schemaOfFamily(signIns);

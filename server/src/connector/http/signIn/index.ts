import { createHmac } from 'node:crypto';
import { fill, type HmacSignIn, type SignIn } from '@vast-knot/core';
import { oauthSigner, type FetchToken } from './oauth';
import type { Signer } from './signIn';

export type { FetchToken } from './oauth';
export type { Signer } from './signIn';

/** What signing in needs beside its description. */
export interface SigningParts {
  readonly secret: string;
  readonly baseUrl: string;
  readonly name: string;
  readonly fetchToken: FetchToken;
}

/** Returns what signs the requests of a system in. */
export function signerOf(signIn: SignIn, parts: SigningParts): Signer {
  const { secret } = parts;
  switch (signIn.kind) {
    case 'none':
      return { sign: () => ({ headers: {} }) };
    case 'bearer':
      return { sign: () => ({ headers: { authorization: `Bearer ${secret}` } }) };
    case 'basic': {
      const credentials = Buffer.from(`${signIn.user}:${secret}`, 'utf8').toString('base64');
      return { sign: () => ({ headers: { authorization: `Basic ${credentials}` } }) };
    }
    case 'header':
      return {
        sign: () => ({ headers: { [signIn.header.toLowerCase()]: fill(signIn.value, { token: secret }) } }),
      };
    case 'query':
      return { sign: () => ({ headers: {}, query: { [signIn.name]: secret } }) };
    case 'oauth':
      return oauthSigner(signIn, parts);
    case 'hmac':
      return hmacSigner(signIn, secret);
  }
}

function hmacSigner(signIn: HmacSignIn, secret: string): Signer {
  return {
    sign({ method, url, body }) {
      const time = String(Math.floor(Date.now() / 1000));
      // In one go, so that nothing in a path or body is filled in.
      const signed = signIn.signed.replace(/\{(method|path|time|body)\}/g, (_whole, name: string) =>
        name === 'method'
          ? method
          : name === 'path'
            ? url.pathname + url.search
            : name === 'time'
              ? time
              : body,
      );
      const signature = createHmac(signIn.hash, secret).update(signed).digest(signIn.encoding);
      return {
        headers: {
          [signIn.header.toLowerCase()]: fill(signIn.value, { signature, user: signIn.user ?? '', time }),
          ...(signIn.timeHeader !== undefined && { [signIn.timeHeader.toLowerCase()]: time }),
        },
      };
    },
  };
}

import * as oauth from 'oauth4webapi';
import { WorkspaceError, type OauthSignIn } from '@vast-knot/core';
import type { Signer } from './signIn';

/** A token is renewed so long before it ends. */
const earlyMs = 60_000;
/** A token of which it is not said how long it lasts. */
const usualSeconds = 300;

/** Fetches a token with the guarded agent. */
export type FetchToken = (
  url: string,
  init: { method: string; headers: Headers; body: string },
) => Promise<Response>;

/**
 * Signs in with a token that is fetched with the secret (RFC 6749, 4.4), kept, and fetched anew before it ends or after it was refused.
 * Who needs it in the same moment waits for the same fetch.
 */
export function oauthSigner(
  signIn: OauthSignIn,
  {
    secret,
    baseUrl,
    name,
    fetchToken,
    now = Date.now,
  }: {
    readonly secret: string;
    readonly baseUrl: string;
    /** The system, for sentences. */
    readonly name: string;
    readonly fetchToken: FetchToken;
    readonly now?: () => number;
  },
): Signer {
  let kept: { readonly token: string; readonly renewAt: number } | undefined;
  let fetching: Promise<string> | undefined;
  const address = new URL(
    signIn.tokenAddress.startsWith('/')
      ? baseUrl.replace(/\/$/, '') + signIn.tokenAddress
      : signIn.tokenAddress,
  );

  const fetchAnew = async (): Promise<string> => {
    const server: oauth.AuthorizationServer = { issuer: address.origin, token_endpoint: address.href };
    const client: oauth.Client = { client_id: signIn.clientId };
    const credentials =
      signIn.credentialsIn === 'body' ? oauth.ClientSecretPost(secret) : oauth.ClientSecretBasic(secret);
    const parameters = new URLSearchParams();
    if (signIn.scope !== undefined) parameters.set('scope', signIn.scope);
    if (signIn.audience !== undefined) parameters.set('audience', signIn.audience);
    try {
      const answer = await oauth.clientCredentialsGrantRequest(server, client, credentials, parameters, {
        [oauth.customFetch]: (url, { method, headers, body }) =>
          fetchToken(url, { method, headers: new Headers(headers), body: String(body) }),
        [oauth.allowInsecureRequests]: address.protocol === 'http:',
      });
      const { access_token: token, expires_in: seconds = usualSeconds } =
        await oauth.processClientCredentialsResponse(server, client, answer);
      // One that lasts less than two minutes is used for half of its time.
      kept = { token, renewAt: now() + Math.max(seconds * 1000 - earlyMs, seconds * 500) };
      return token;
    } catch (thrown) {
      if (thrown instanceof WorkspaceError) throw thrown;
      throw notGiven(name, thrown);
    }
  };

  return {
    async sign() {
      if (!kept || now() >= kept.renewAt) {
        fetching ??= fetchAnew().finally(() => (fetching = undefined));
        return { headers: { authorization: `Bearer ${await fetching}` } };
      }
      return { headers: { authorization: `Bearer ${kept.token}` } };
    },
    refused() {
      const had = kept !== undefined;
      kept = undefined;
      return had;
    },
  };
}

function notGiven(name: string, thrown: unknown): WorkspaceError {
  const told =
    thrown instanceof oauth.ResponseBodyError
      ? (thrown.error_description ?? thrown.error)
      : thrown instanceof Error
        ? thrown.message
        : String(thrown);
  const retry = thrown instanceof oauth.ResponseBodyError && thrown.status >= 500;
  const message = `${name} gave no token to sign in with: ${told.replace(/\.$/, '')}.`;
  return new WorkspaceError({ code: retry ? 'unavailable' : 'refused', message, retry });
}

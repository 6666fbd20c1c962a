import type { SignIn } from '../../connection';
import { isJsonObject, type JsonObject } from '../../model/json';
import type { Resolve } from '../fieldsOfSchema';
import type { Reason } from '../proposal';

/** Proposes how to sign in: the first way that the document wants and that can be done, or that it knows at all. */
export function signInOf(
  document: JsonObject,
  resolve: Resolve,
): { readonly signIn: SignIn | undefined; readonly reason: Reason | undefined } {
  const components = isJsonObject(document['components']) ? document['components'] : {};
  const schemes = isJsonObject(components['securitySchemes']) ? components['securitySchemes'] : {};
  const wanted = (Array.isArray(document['security']) ? document['security'] : []).flatMap((each) =>
    isJsonObject(each) ? Object.keys(each) : [],
  );
  const names = [...new Set([...wanted, ...Object.keys(schemes)])];
  for (const name of names) {
    const scheme = resolve(schemes[name]);
    const signIn = isJsonObject(scheme) ? schemeOf(scheme) : undefined;
    if (signIn)
      return {
        signIn,
        reason: { about: 'signIn', because: `the document calls it “${name}”`, sure: 'said' },
      };
  }
  if (names.length === 0)
    return {
      signIn: { kind: 'none' },
      reason: { about: 'signIn', because: 'the document asks for none', sure: 'likely' },
    };
  const because = `none of its ways of signing in can be done without a person: ${names.join(', ')}`;
  return { signIn: undefined, reason: { about: 'signIn', because, sure: 'said' } };
}

function schemeOf(scheme: JsonObject): SignIn | undefined {
  const { type, scheme: kind, name, in: where, flows } = scheme;
  switch (type) {
    case 'http':
      if (String(kind).toLowerCase() === 'bearer') return { kind: 'bearer' };
      return String(kind).toLowerCase() === 'basic' ? { kind: 'basic', user: '' } : undefined;
    case 'apiKey':
      if (typeof name !== 'string') return undefined;
      if (where === 'query') return { kind: 'query', name };
      if (where !== 'header') return undefined;
      // A key in this header has a word before it, as a rule (RFC 9110, 11.4).
      return /^authorization$/i.test(name)
        ? { kind: 'bearer' }
        : { kind: 'header', header: name, value: '{token}' };
    case 'oauth2': {
      const flow = isJsonObject(flows) ? flows['clientCredentials'] : undefined;
      if (!isJsonObject(flow) || typeof flow['tokenUrl'] !== 'string') return undefined;
      const scopes = isJsonObject(flow['scopes']) ? Object.keys(flow['scopes']) : [];
      return {
        kind: 'oauth',
        tokenAddress: flow['tokenUrl'],
        clientId: '',
        ...(scopes.length > 0 && { scope: scopes.join(' ') }),
        credentialsIn: 'header',
      };
    }
    default:
      return undefined;
  }
}

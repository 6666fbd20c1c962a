import type { Changing, Filter, Paging, SignIn } from '@vast-knot/core';

type Beginnings<F extends { readonly kind: string }> = { readonly [K in F['kind']]: Extract<F, { kind: K }> };

/** What each way of signing in begins with. */
export const signInBeginnings: Beginnings<SignIn> = {
  none: { kind: 'none' },
  bearer: { kind: 'bearer' },
  basic: { kind: 'basic', user: '' },
  header: { kind: 'header', header: 'X-Api-Key', value: '{token}' },
  query: { kind: 'query', name: 'api_key' },
  oauth: { kind: 'oauth', tokenAddress: '/oauth/token', clientId: '', credentialsIn: 'header' },
  hmac: {
    kind: 'hmac',
    header: 'X-Signature',
    hash: 'sha256',
    encoding: 'hex',
    value: '{signature}',
    signed: '{method}\n{path}\n{time}\n{body}',
  },
};

const limit = { name: 'limit', most: 100 };

export const pagingBeginnings: Beginnings<Paging> = {
  cursor: { kind: 'cursor', next: '/next', parameter: 'cursor', limit },
  page: { kind: 'page', parameter: 'page', first: 1, limit },
  offset: { kind: 'offset', parameter: 'offset', limit },
  link: { kind: 'link', limit },
  address: { kind: 'address', next: '/next' },
  'last record': { kind: 'last record', parameter: 'after', field: 'id', limit },
  none: { kind: 'none' },
};

export const filterBeginnings: Beginnings<Filter> = {
  'parameter per field': { kind: 'parameter per field', name: '{field}', several: 'one at a time' },
  condition: { kind: 'condition', name: 'filter', equal: '{field} eq {value}' },
  none: { kind: 'none' },
};

export const changingBeginnings: Beginnings<Changing> = {
  'merge patch': { kind: 'merge patch', mediaType: 'application/json' },
  'json patch': { kind: 'json patch' },
  'whole record': { kind: 'whole record' },
  bulk: {
    kind: 'bulk',
    method: 'POST',
    path: '{path}/bulk',
    items: 'items',
    item: { id: '{id}', changes: '{changes}' },
    results: '/results',
    status: '/status',
    record: '/record',
    problem: '/problem',
    size: 100,
  },
};

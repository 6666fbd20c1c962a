import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Agent } from 'undici';
import {
  fromFirstFormat,
  httpConnectionSchema,
  mergePatchOf,
  WorkspaceError,
  type Filter,
} from '@vast-knot/core';
import { Gates } from '../gates';
import { HttpConnector } from './connector';

type Reply = { status?: number; body: unknown; headers?: Record<string, string> };
const seen: {
  method: string;
  url: string;
  headers: IncomingMessage['headers'];
  body: unknown;
  text: string;
}[] = [];
let reply: (url: string) => Reply;
let server: Server;
let host: string;

beforeAll(async () => {
  server = createServer((request: IncomingMessage, response: ServerResponse) => {
    let text = '';
    request.on('data', (chunk: Buffer) => (text += chunk.toString()));
    request.on('end', () => {
      const url = decodeURIComponent((request.url ?? '').replaceAll('+', ' '));
      seen.push({
        method: request.method ?? '',
        url,
        headers: request.headers,
        body: text === '' ? undefined : JSON.parse(text),
        text,
      });
      const { status = 200, body, headers = {} } = reply(url);
      response
        .writeHead(status, { 'content-type': 'application/json', ...headers })
        .end(typeof body === 'string' ? body : JSON.stringify(body));
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  host = `127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => new Promise((done) => server.close(done)));
beforeEach(() => void seen.splice(0));

const perField: Filter = { kind: 'parameter per field', name: 'f[{field}]' };
const condition: Filter = {
  kind: 'condition',
  name: 'where',
  equal: '{field}:eq:{value}',
  oneOf: '{field}:in:{values}',
  separator: '|',
};

function connector(filter: Filter = perField, allowed = [host]): HttpConnector {
  // As the first version of the format had it: what is landed is read.
  const first = {
    kind: 'http',
    baseUrl: `http://${host}`,
    auth: { header: 'X-Key', value: 'key {token}' },
    version: { field: 'rev', ifMatch: '"{version}"' },
    document: '/openapi.json',
    recordTypes: { booking: { path: '/b' } },
    list: {
      items: '/items',
      next: '/page/next',
      cursor: 'cursor',
      limit: { name: 'limit', most: 2 },
      search: 'q',
      filter,
    },
    bulk: {
      method: 'POST',
      path: '{path}/bulk',
      items: 'ops',
      item: { id: '{id}', match: '{ifMatch}', key: '{key}', set: '{changes}' },
      results: '/out',
      status: '/code',
      record: '/doc',
      problem: '/fault',
      size: 2,
    },
    events: { types: {}, record: '/record' },
    subscribe: { method: 'PUT', path: '/hooks', body: { to: '{url}', sign: '{secret}' } },
  };
  const { value: connection, error } = httpConnectionSchema.validate(fromFirstFormat(first));
  if (error) throw error;
  return new HttpConnector(connection, {
    system: {
      key: 'desk',
      name: 'desk',
      tag: 'DE',
      hue: 10,
      recordTypes: [
        { name: 'booking', label: 'Booking', plural: 'Bookings', idField: 'id', nameField: 'id', fields: [] },
      ],
    },
    gateWith: (limits) => new Gates().of('desk', limits),
    token: 's3cret',
    dispatcher: new Agent(),
    allowedOutbound: allowed,
  });
}

const edit = (id: string, version?: string) => ({
  change: {
    kind: 'edit' as const,
    ref: { system: 'desk', recordType: 'booking', id },
    edits: [{ path: 'address.town', before: 'x', after: 'y' }],
  },
  key: `key-${id}`,
  ...(version !== undefined && { version }),
});

async function problemOf(work: Promise<unknown>): Promise<WorkspaceError['problem']> {
  const error = await work.catch((thrown: unknown) => thrown);
  if (!(error instanceof WorkspaceError)) throw new Error('it did not fail as a system fails');
  return error.problem;
}

test('pages are followed to the end, with key, limit and filter on each request', async () => {
  reply = (url) =>
    url.includes('cursor=2')
      ? { body: { items: [{ id: 'B-3' }], page: { next: null } } }
      : { body: { items: [{ id: 'B-1', rev: 4 }, { id: 'B-2' }], page: { next: '2' } } };
  const found = await connector().find('booking', [{ field: 'party', values: ['P 1', 'P&2'] }]);
  expect(found.map(({ ref, version }) => [ref.id, version])).toEqual([
    ['B-1', '4'],
    ['B-2', undefined],
    ['B-3', undefined],
  ]);
  expect(seen.map(({ url }) => url)).toEqual([
    '/b?limit=2&f[party]=P 1&f[party]=P&2',
    '/b?limit=2&cursor=2&f[party]=P 1&f[party]=P&2',
  ]);
  expect(seen[0]?.headers['x-key']).toBe('key s3cret');
});

test('conditions in one parameter: equal for one value, one of for several', async () => {
  reply = () => ({ body: { items: [], page: {} } });
  await connector(condition).find('booking', [
    { field: 'party', values: ['P-1'] },
    { field: 'state', values: ['open', 'held'] },
  ]);
  expect(seen[0]?.url).toBe('/b?limit=2&where=party:eq:P-1&where=state:in:open|held');
});

test('a long list of values is asked for in parts', async () => {
  reply = () => ({ body: { items: [], page: {} } });
  await connector(condition).find('booking', [
    { field: 'id', values: Array.from({ length: 250 }, (_none, at) => `B-${at}`) },
  ]);
  expect(seen).toHaveLength(3);
});

test('a bulk write carries version, key and a merge patch for each, and gives each its own result', async () => {
  reply = () => ({
    body: {
      out: [
        { code: 200, doc: { id: 'B-1', rev: 5 } },
        { code: 412, fault: { detail: 'Moved on.' } },
      ],
    },
  });
  const results = await connector().write('booking', [edit('B-1', '4'), edit('B-2', '1')]);
  expect(seen[0]).toMatchObject({
    method: 'POST',
    url: '/b/bulk',
    body: {
      ops: [
        { id: 'B-1', match: '"4"', key: 'key-B-1', set: { address: { town: 'y' } } },
        { id: 'B-2', match: '"1"', key: 'key-B-2', set: { address: { town: 'y' } } },
      ],
    },
  });
  expect(results).toEqual([
    { ok: true, record: { id: 'B-1', rev: 5 }, version: '5' },
    { ok: false, problem: { code: 'changed in between', message: 'desk: Moved on.', retry: true } },
  ]);
});

test('a bulk answer without a result for each item is not taken for success', async () => {
  reply = () => ({ body: { out: [] } });
  const [result] = await connector().write('booking', [edit('B-1')]);
  expect(result).toMatchObject({ ok: false, problem: { code: 'refused', retry: false } });
});

test.each([
  [500, 'unavailable', true],
  [503, 'unavailable', true],
  [429, 'unavailable', true],
  [409, 'changed in between', true],
  [401, 'refused', false],
  [422, 'refused', false],
])('an answer of %d is %s', async (status, code, retry) => {
  reply = () => ({ status, body: { title: 'No' }, headers: { 'retry-after': '60' } });
  expect(await problemOf(connector().get('booking', 'B-1'))).toMatchObject({
    code,
    retry,
    message: expect.stringContaining('desk: No') as string,
  });
});

test('a system that wants to be asked a little later is asked then, and nobody has failed', async () => {
  let asked = 0;
  reply = () =>
    ++asked === 1
      ? { status: 429, body: { title: 'No' }, headers: { 'retry-after': '1' } }
      : { body: { id: 'B-1', rev: 1 } };
  const began = Date.now();
  expect(await connector().get('booking', 'B-1')).toMatchObject({ record: { id: 'B-1' } });
  expect(asked).toBe(2);
  expect(Date.now() - began).toBeGreaterThanOrEqual(900);
});

test('a record that is not there is no failure', async () => {
  reply = () => ({ status: 404, body: {} });
  expect(await connector().get('booking', 'B-1')).toBeUndefined();
});

test('an error page that is not JSON still tells by its status', async () => {
  reply = () => ({ status: 502, body: '<html>bad gateway</html>' });
  expect(await problemOf(connector().get('booking', 'B-1'))).toMatchObject({
    code: 'unavailable',
    retry: true,
  });
});

test('an id cannot lead to another path', async () => {
  reply = () => ({ body: { id: 'x' } });
  await connector().get('booking', '../secrets?x=1');
  expect(seen[0]?.url).toBe('/b/../secrets?x=1');
  expect(seen).toHaveLength(1);
});

test('an address inside this network is not asked unless it was allowed', async () => {
  expect(await problemOf(connector(perField, []).get('booking', 'B-1'))).toMatchObject({
    code: 'refused',
    retry: false,
  });
  expect(seen).toEqual([]);
});

test('a system is asked to send its events', async () => {
  reply = () => ({ status: 204, body: '' });
  await connector().listen('http://knot.example/hooks/desk', 'whsec_x');
  expect(seen[0]).toMatchObject({
    method: 'PUT',
    url: '/hooks',
    body: { to: 'http://knot.example/hooks/desk', sign: 'whsec_x' },
  });
});

test('edits as a merge patch: nested, and blank as null', () => {
  const at = (path: string, after: string | null) => ({ path, after });
  expect(mergePatchOf([at('address.town', 'y'), at('address.street', null), at('phone', '1')])).toEqual({
    address: { town: 'y', street: null },
    phone: '1',
  });
});

test('changes of several kinds are written together, and each gets its own result in its place', async () => {
  reply = (url) =>
    url === '/b/bulk'
      ? { body: { out: [{ code: 200, doc: { id: 'B-1', rev: 5 } }] } }
      : { status: 404, body: { detail: 'Not there.' } };
  const gone = {
    change: {
      kind: 'remove' as const,
      ref: { system: 'desk', recordType: 'booking', id: 'B-9' },
      record: { id: 'B-9' },
    },
  };
  const results = await connector().write('booking', [gone, edit('B-1', '4')]);
  expect(results).toEqual([
    {
      ok: false,
      problem: {
        code: 'refused',
        message: 'desk cannot remove records: its connection does not say how.',
        retry: false,
      },
    },
    { ok: true, record: { id: 'B-1', rev: 5 }, version: '5' },
  ]);
});

test('a probe says how long the answer took, or why there was none', async () => {
  reply = () => ({ body: { items: [], page: {} } });
  expect(await connector().probe()).toEqual({ answers: true, milliseconds: expect.any(Number) as number });
  reply = () => ({ status: 503, body: { title: 'Closed' } });
  expect(await connector().probe()).toEqual({ answers: false, because: 'desk: Closed (503)' });
});

test('the version of a record is a number, or none', () => {
  expect(connector().versionOf('booking', { rev: '7' })).toBe(7);
  expect(connector().versionOf('booking', { rev: 'draft' })).toBeUndefined();
  expect(connector().versionOf('booking', {})).toBeUndefined();
});

test('the document in which a system describes itself is fetched as it is, signed in', async () => {
  reply = () => ({ body: 'openapi: 3.1.0', headers: { 'content-type': 'application/yaml' } });
  expect(await connector().document()).toEqual({
    kind: 'document',
    text: 'openapi: 3.1.0',
    address: `http://${host}/openapi.json`,
    recordTypes: { booking: { path: '/b' } },
  });
  expect(seen[0]).toMatchObject({ url: '/openapi.json', headers: { 'x-key': 'key s3cret' } });
});

test.each([
  ['a number', '7', '7'],
  ['a long number', '90071992547409931', '90071992547409931'],
  ['text', '"n 7"', 'n 7'],
])('the next page is asked for where its cursor is %s', async (_what, cursor, asked) => {
  reply = (url) =>
    url.includes('cursor=')
      ? { body: { items: [{ id: 'B-2' }], page: { next: null } } }
      : { body: `{"items": [{"id": "B-1"}], "page": {"next": ${cursor}}}` };
  expect((await connector().find('booking', [])).map(({ ref }) => ref.id)).toEqual(['B-1', 'B-2']);
  expect(seen.at(-1)?.url).toContain(`cursor=${asked}`);
});

test('numbers keep their digits on the way in and on the way out: in fields, ids, versions and filters', async () => {
  const id = '90071992547409931';
  reply = (url) =>
    url.includes('bulk')
      ? { body: { out: [{ code: 200, doc: { id: 'x' } }] } }
      : {
          body: `{"items": [{"id": ${id}, "rev": 12345678901234567890, "weight": 0.12345678901234567890}], "page": {}}`,
        };
  const [found] = await connector().find('booking', [
    { field: 'weight', values: [{ $number: '1.00000000000000000001' }] },
  ]);
  expect(found?.ref.id).toBe(id);
  expect(found?.version).toBe('12345678901234567890');
  expect(seen[0]?.url).toContain('f[weight]=1.00000000000000000001');
  const after = found?.record['weight'] ?? null;
  const change = {
    kind: 'edit' as const,
    ref: { system: 'desk', recordType: 'booking', id },
    edits: [{ path: 'weight', before: null, after }],
  };
  await connector().write('booking', [{ change }]);
  expect(seen.at(-1)?.text).toContain('"weight":0.12345678901234567890');
});

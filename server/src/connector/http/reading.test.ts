import { gzipSync } from 'node:zlib';
import type { Paging } from '@vast-knot/core';
import { TestApplication } from './testApplication';

const app = new TestApplication();
beforeAll(() => app.start());
afterAll(() => app.stop());
beforeEach(() => {
  app.seen.splice(0);
  app.exchanged.splice(0);
});

const list = (paging: Paging, more: object = {}) => ({
  list: { path: '{path}', items: '', paging, filter: { kind: 'none' as const }, ...more },
});
const ids = async (connector = app.connector()) =>
  (await connector.find('pier', [])).map(({ ref }) => ref.id);
const numbers = (count: number, from = 1) =>
  Array.from({ length: count }, (_none, at) => ({ id: `P-${from + at}` }));
const asked = () => app.seen.map(({ url }) => url);

describe('pages', () => {
  test('by number, until an empty page: a shorter one may only be what the system gives at most', async () => {
    const pages = [numbers(2), numbers(1, 3), numbers(2, 4), []];
    app.reply = ({ url }) => ({ body: pages[Number(/p=(\d)/.exec(url)?.[1]) - 1] });
    const paging = { kind: 'page' as const, parameter: 'p', first: 1, limit: { name: 'size', most: 2 } };
    expect(await ids(app.connector(list(paging)))).toEqual(['P-1', 'P-2', 'P-3', 'P-4', 'P-5']);
    expect(asked()).toEqual([
      '/piers?size=2&p=1',
      '/piers?size=2&p=2',
      '/piers?size=2&p=3',
      '/piers?size=2&p=4',
    ]);
  });

  test('by number, until the total is there, as a header says it', async () => {
    app.reply = ({ url }) => ({
      body: url.includes('p=0') ? numbers(2) : numbers(1, 3),
      headers: { 'x-total-count': '3' },
    });
    const paging = { kind: 'page' as const, parameter: 'p', first: 0, limit: { name: 'size', most: 2 } };
    expect(await ids(app.connector(list(paging, { totalHeader: 'X-Total-Count' })))).toHaveLength(3);
    expect(app.seen).toHaveLength(2);
  });

  test('a page after the last may be “not found”', async () => {
    app.reply = ({ url }) =>
      url.includes('p=1') ? { body: numbers(2) } : { status: 404, body: { detail: 'No page.' } };
    expect(await ids(app.connector(list({ kind: 'page', parameter: 'p', first: 1 })))).toEqual([
      'P-1',
      'P-2',
    ]);
  });

  test('by offset', async () => {
    app.reply = ({ url }) => {
      const from = Number(/from=(\d+)/.exec(url)?.[1]);
      return { body: { total: 5, data: numbers(5).slice(from, from + 2) } };
    };
    const paging = { kind: 'offset' as const, parameter: 'from', limit: { name: 'n', most: 2 } };
    expect(await ids(app.connector(list(paging, { items: '/data', total: '/total' })))).toHaveLength(5);
    expect(asked()).toEqual(['/piers?n=2&from=0', '/piers?n=2&from=2', '/piers?n=2&from=4']);
  });

  test('by a Link header (RFC 8288), which may name a part of an address, and holds other relations', async () => {
    app.reply = ({ url }) =>
      url.includes('after=2')
        ? { body: numbers(1, 3), headers: { link: '</piers>; rel="first"' } }
        : { body: numbers(2), headers: { link: '</piers>; rel="first", <?after=2&size=2>; rel="next"' } };
    expect(await ids(app.connector(list({ kind: 'link', limit: { name: 'size', most: 2 } })))).toHaveLength(
      3,
    );
    expect(asked()).toEqual(['/piers?size=2', '/piers?after=2&size=2']);
  });

  test('by an address in the answer, which must be of the same origin', async () => {
    const paging = { kind: 'address' as const, next: '/links/next' };
    const connector = app.connector(list(paging, { items: '/data' }));
    app.reply = ({ url }) => ({
      body: {
        data: numbers(1, url.includes('x') ? 2 : 1),
        links: { next: url.includes('x') ? null : `http://${app.host}/piers?x` },
      },
    });
    expect(await ids(connector)).toEqual(['P-1', 'P-2']);
    app.reply = () => ({ body: { data: numbers(1), links: { next: 'http://elsewhere.example/piers' } } });
    await expect(ids(connector)).rejects.toThrow(
      /leads to http:\/\/elsewhere.example.*Secrets are not sent there/,
    );
  });

  test('after the last record, by one of its fields, until a page is empty, or says that there are no more', async () => {
    const paging = {
      kind: 'last record' as const,
      parameter: 'after',
      field: 'id',
      limit: { name: 'n', most: 2 },
    };
    const pages: Record<string, unknown[]> = { 'P-2': numbers(1, 3), 'P-3': [] };
    app.reply = ({ url }) => ({
      body: {
        data: pages[/after=(P-\d)/.exec(url)?.[1] ?? ''] ?? numbers(2),
        more: !url.includes('after=P-2'),
      },
    });
    expect(await ids(app.connector(list(paging, { items: '/data' })))).toEqual(['P-1', 'P-2', 'P-3']);
    expect(asked()).toEqual(['/piers?n=2', '/piers?n=2&after=P-2', '/piers?n=2&after=P-3']);
    app.seen.splice(0);
    expect(await ids(app.connector(list({ ...paging, more: '/more' }, { items: '/data' })))).toHaveLength(3);
    expect(asked()).toEqual(['/piers?n=2', '/piers?n=2&after=P-2']);
  });

  test('a page that comes again and again is told, and not followed for ever', async () => {
    app.reply = () => ({ body: { data: numbers(2), next: 'same' } });
    const paging = { kind: 'cursor' as const, next: '/next', parameter: 'c' };
    await expect(ids(app.connector(list(paging, { items: '/data' })))).rejects.toThrow(
      /same page of pier again and again/,
    );
    app.reply = () => ({ body: numbers(2) });
    const ignored = app.connector(list({ kind: 'page', parameter: 'p', first: 1 }));
    await expect(ids(ignored)).rejects.toThrow(/same page of pier again and again/);
    expect(app.seen.length).toBeLessThan(8);
  });

  test('each record may stand in an envelope of its own', async () => {
    app.reply = () => ({ body: { rows: [{ key: 'P-1', doc: { id: 'P-1', name: 'North' } }] } });
    const connector = app.connector(list({ kind: 'none' }, { items: '/rows', record: '/doc' }));
    expect(await connector.find('pier', [])).toMatchObject([{ record: { id: 'P-1', name: 'North' } }]);
  });
});

describe('what is looked for', () => {
  const all = [
    { id: 'P-1', name: 'North', depth: 4 },
    { id: 'P-2', name: 'South', depth: '4.0' },
    { id: 'P-3', name: 'South', depth: 7 },
  ];

  test('is looked through here where the system cannot be asked', async () => {
    app.reply = () => ({ body: all });
    const found = await app.connector().find('pier', [{ field: 'depth', values: [4] }]);
    expect(found.map(({ ref }) => ref.id)).toEqual(['P-1', 'P-2']);
    expect(asked()).toEqual(['/piers']);
  });

  test('is asked for in the fields that can be, and looked through for the others', async () => {
    app.reply = ({ url }) => ({ body: url.includes('name=South') ? all.slice(1) : all });
    const filter = { kind: 'parameter per field' as const, name: '{field}', fields: ['name'] };
    const found = await app.connector(list({ kind: 'none' }, { filter })).find('pier', [
      { field: 'name', values: ['South'] },
      { field: 'depth', values: [7] },
    ]);
    expect(found.map(({ ref }) => ref.id)).toEqual(['P-3']);
    expect(asked()).toEqual(['/piers?name=South']);
  });

  test('is asked for value by value where only one can be given', async () => {
    app.reply = ({ url }) => ({ body: all.filter(({ name }) => url.includes(name)) });
    const filter = {
      kind: 'parameter per field' as const,
      name: 'f_{field}',
      several: 'one at a time' as const,
    };
    const found = await app
      .connector(list({ kind: 'none' }, { filter }))
      .find('pier', [{ field: 'name', values: ['North', 'South'] }]);
    expect(found).toHaveLength(3);
    expect(asked()).toEqual(['/piers?f_name=North', '/piers?f_name=South']);
  });
});

test('a page of what takes several questions is looked through here', async () => {
  app.reply = () => ({
    body: [
      { id: 'P-1', name: 'North' },
      { id: 'P-2', name: 'East' },
    ],
  });
  const filter = { kind: 'parameter per field' as const, name: '{field}', several: 'one at a time' as const };
  const conditions = [{ field: 'name', values: ['North', 'South'] }];
  const page = await app
    .connector(list({ kind: 'none' }, { filter }))
    .page({ type: 'pier', limit: 9, conditions });
  expect(page.records.map(({ ref }) => ref.id)).toEqual(['P-1']);
  expect(asked()).toEqual(['/piers']);
});

test('where most of a page is looked through in vain, pages stay as large as they are', async () => {
  app.reply = ({ url }) => ({ body: url.includes('from=0') ? numbers(4) : [] });
  const paging = { kind: 'offset' as const, parameter: 'from', limit: { name: 'n', most: 4 } };
  const found = await app.connector(list(paging)).find('pier', [{ field: 'name', values: ['none'] }], 1);
  expect([found, asked()]).toEqual([[], ['/piers?n=4&from=0', '/piers?n=4&from=4']]);
});

describe('one record', () => {
  test.each([
    ['a/b', '/piers/a%2Fb'],
    ['?', '/piers/%3F'],
    ['%2e', '/piers/%252e'],
    ['x y#z', '/piers/x%20y%23z'],
    ['…', '/piers/%E2%80%A6'],
  ])('the id “%s” reaches exactly that record', async (id, url) => {
    app.reply = () => ({ body: { id }, headers: { etag: '"v1"' } });
    const ref = { system: 'quay', recordType: 'pier', id };
    expect(await app.connector().get('pier', id)).toEqual({ ref, record: { id } });
    expect(asked()).toEqual([url]);
  });

  test.each(['.', '..', '', '\ud800'])(
    'the id “%s” is no part of an address, and nothing is asked',
    async (id) => {
      expect(await app.connector().get('pier', id)).toBeUndefined();
      expect(app.seen).toEqual([]);
    },
  );

  test('another record than the one that was asked for is not that record', async () => {
    app.reply = () => ({ body: { id: 'P-2' } });
    expect(await app.connector().get('pier', 'P-1')).toBeUndefined();
  });

  test('it may stand in an envelope, or only in the list', async () => {
    app.reply = () => ({ body: { data: { id: 'P-1', name: 'North' } } });
    const enveloped = app.connector({ one: { kind: 'address', path: '{path}/{id}', record: '/data' } });
    expect((await enveloped.get('pier', 'P-1'))?.record).toEqual({ id: 'P-1', name: 'North' });
    app.reply = () => ({ body: numbers(3) });
    expect((await app.connector({ one: { kind: 'list' } }).get('pier', 'P-2'))?.ref.id).toBe('P-2');
    expect(asked().at(-1)).toBe('/piers');
  });
});

describe('answers that are not as they should be', () => {
  const problem = async () => {
    const thrown: unknown = await app
      .connector()
      .find('pier', [])
      .catch((error: unknown) => error);
    return thrown instanceof Error ? thrown.message : 'nothing was wrong';
  };

  test.each<[string, object, RegExp]>([
    [
      'a page of a portal',
      { headers: { 'content-type': 'text/html' }, body: '<html>' },
      /cannot be read: it is a page \(HTML or XML\)/,
    ],
    ['a single value', { body: '7' }, /its list has a single value at its root, where its records should be/],
    ['an object', { body: { items: [] } }, /has an object at its root/],
    ['records without an id', { body: [{ name: 'x' }] }, /a record that has no id at id/],
    ['things that are no records', { body: [4] }, /something that is not a record at \/0/],
    ['a strange packing', { headers: { 'content-encoding': 'zstd-7' }, body: 'x' }, /packed as “zstd-7”/],
    [
      'what is not packed at all',
      { headers: { 'content-encoding': 'gzip' }, body: '[]' },
      /said to be packed as “gzip”, and is not/,
    ],
    [
      'a strange character set',
      { headers: { 'content-type': 'application/json; charset=klingon' }, body: '[]' },
      /character set is not understood/,
    ],
    ['JSON that is cut off', { body: '[{"id": ' }, /cannot be read/],
  ])('%s', async (_what, reply, sentence) => {
    app.reply = () => reply;
    expect(await problem()).toMatch(sentence);
  });

  test('no content is an empty list', async () => {
    app.reply = () => ({ status: 204 });
    expect(await ids()).toEqual([]);
  });

  test('packed answers and other character sets are read', async () => {
    app.reply = () => ({ headers: { 'content-encoding': 'gzip' }, body: gzipSync('[{"id":"P-1"}]') });
    expect(await ids()).toEqual(['P-1']);
    const latin = Buffer.from('[{"id":"Skærgård"}]', 'latin1');
    app.reply = () => ({ headers: { 'content-type': 'application/json; charset=ISO-8859-1' }, body: latin });
    expect(await ids()).toEqual(['Skærgård']);
  });

  test('a small packed answer that unpacks to more than is read is refused', async () => {
    const bomb = gzipSync(Buffer.alloc(40 * 1024 * 1024, 32));
    app.reply = () => ({ headers: { 'content-encoding': 'gzip' }, body: bomb });
    expect(await problem()).toMatch(/too large/);
  });

  test('a system that sends on is followed three times, and only on its own origin', async () => {
    app.reply = ({ url }) => {
      const step = Number(/step=(\d)/.exec(url)?.[1] ?? 0);
      return step === 3
        ? { body: numbers(1) }
        : { status: 302, headers: { location: `/piers?step=${step + 1}` } };
    };
    expect(await ids()).toEqual(['P-1']);
    app.reply = () => ({ status: 302, headers: { location: '/piers' } });
    expect(await problem()).toMatch(/more than 3 times/);
    app.reply = () => ({ status: 307, headers: { location: 'http://elsewhere.example/' } });
    expect(await problem()).toMatch(/leads to http:\/\/elsewhere.example/);
  });
});

describe('signing in', () => {
  const first = async (signIn: Parameters<typeof app.connector>[1]) => {
    app.reply = () => ({ body: [] });
    await ids(app.connector({}, signIn));
    return app.seen[0];
  };

  test('in each way, and the secret is nowhere in what is shown', async () => {
    expect((await first({ signIn: { kind: 'bearer' } }))?.headers.authorization).toBe('Bearer s3cret-key');
    app.seen.splice(0);
    // RFC 7617, 2: base64 of name, colon and password.
    const basic = await first({ signIn: { kind: 'basic', user: 'Aladdin' } });
    expect(basic?.headers.authorization).toBe(
      `Basic ${Buffer.from('Aladdin:s3cret-key').toString('base64')}`,
    );
    app.seen.splice(0);
    expect((await first({ signIn: { kind: 'query', name: 'api_key' } }))?.url).toBe(
      '/piers?api_key=s3cret-key',
    );
    app.seen.splice(0);
    const key = await first({ signIn: { kind: 'header', header: 'X-Key', value: 'k {token}' } });
    expect(key?.headers['x-key']).toBe('k s3cret-key');
    expect(JSON.stringify(app.exchanged)).not.toContain('s3cret');
    expect(app.exchanged).toHaveLength(4);
  });

  test('by signing each request (RFC 2104 with SHA-256)', async () => {
    const request = await first({
      signIn: {
        kind: 'hmac',
        header: 'X-Sign',
        hash: 'sha256',
        encoding: 'hex',
        value: 'v1={signature}',
        signed: '{method} {path}',
      },
    });
    const { createHmac } = await import('node:crypto');
    const right = createHmac('sha256', 's3cret-key').update('GET /piers').digest('hex');
    expect(request?.headers['x-sign']).toBe(`v1=${right}`);
  });

  test('with OAuth client credentials: one token for many, a new one after it was refused', async () => {
    let token = 0;
    let refused = '';
    app.reply = ({ url, headers, text }) => {
      if (url === '/token') {
        // RFC 6749, 4.4.2 and 2.3.1
        expect(text).toBe('scope=piers&grant_type=client_credentials');
        const credentials = Buffer.from(headers.authorization?.slice(6) ?? '', 'base64').toString();
        expect(credentials.split(':').map(decodeURIComponent)).toEqual(['knot', 's3cret-key']);
        return { body: { access_token: `t-${++token}`, token_type: 'Bearer', expires_in: 3600 } };
      }
      return headers.authorization === refused
        ? { status: 401, body: {} }
        : { body: [{ id: headers.authorization }] };
    };
    const connector = app.connector(
      {},
      {
        signIn: {
          kind: 'oauth',
          tokenAddress: '/token',
          clientId: 'knot',
          scope: 'piers',
          credentialsIn: 'header',
        },
      },
    );
    expect(await Promise.all([ids(connector), ids(connector)])).toEqual([['Bearer t-1'], ['Bearer t-1']]);
    refused = 'Bearer t-1';
    expect(await ids(connector)).toEqual(['Bearer t-2']);
    expect(JSON.stringify(app.exchanged)).not.toMatch(/s3cret|"t-1"/);
  });

  test('a token that is not given is told with what the system says (RFC 6749, 5.2)', async () => {
    app.reply = () => ({
      status: 400,
      body: { error: 'invalid_client', error_description: 'No such client.' },
    });
    const connector = app.connector(
      {},
      {
        signIn: { kind: 'oauth', tokenAddress: '/token', clientId: 'knot', credentialsIn: 'body' },
      },
    );
    await expect(ids(connector)).rejects.toThrow('Quay gave no token to sign in with: No such client.');
  });
});

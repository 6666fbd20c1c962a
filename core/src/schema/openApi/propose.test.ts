import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { load } from 'js-yaml';
import { httpConnectionSchema } from '../../connection';
import { systemSchema } from '../../model/system';
import { proposeFromOpenApi } from './propose';

const read = (file: string): unknown => {
  const text = readFileSync(resolve(__dirname, '../../../../node_modules', file), 'utf8');
  return file.endsWith('.yaml') ? load(text) : (JSON.parse(text) as unknown);
};
const proposed = (document: unknown, address = 'https://api.example/openapi.json') => {
  const result = proposeFromOpenApi(document, address);
  if (!result.ok) throw new Error(result.because);
  return result.proposal;
};
const typeOf = (document: unknown, name: string) => {
  const found = proposed(document).types.find(({ type }) => type.name === name);
  if (!found) throw new Error(`no ${name}`);
  return found;
};

describe('published examples of OpenAPI', () => {
  // The documents “petstore-expanded”, “petstore” and “train-travel”, as @readme/oas-examples 8 ships them.
  test('the expanded pet store has pets, that can be listed, created and removed', () => {
    const { type, style } = typeOf(read('@readme/oas-examples/3.0/json/petstore-expanded.json'), 'pet');
    expect(type).toMatchObject({ label: 'Pet', plural: 'Pets', idField: 'id', nameField: 'name' });
    expect(type.fields).toEqual([
      { name: 'name', label: 'Name', type: 'text', required: true },
      { name: 'tag', label: 'Tag', type: 'text' },
      { name: 'id', label: 'Id', type: 'integer', required: true, readOnly: true },
    ]);
    expect(style).toMatchObject({
      path: '/pets',
      list: { items: '', paging: { kind: 'none' } },
      one: { kind: 'address', path: '{path}/{id}' },
      creating: { method: 'POST', path: '{path}' },
      removing: { method: 'DELETE', path: '{path}/{id}' },
    });
  });

  test('the pet store has options, and a key in a header', () => {
    const document = read('@readme/oas-examples/3.0/json/petstore.json');
    const status = typeOf(document, 'pet').type.fields.find(({ name }) => name === 'status');
    expect(status?.options?.map(({ value }) => value)).toEqual(['available', 'pending', 'sold']);
    expect(proposed(document)).toMatchObject({
      name: 'Swagger Petstore',
      baseUrl: 'http://petstore.swagger.io/v2',
      signIn: { kind: 'header', header: 'api_key' },
      leftOut: ['/pet/findByTags: it gives the same records as /pet/findByStatus.'],
    });
  });

  test('train travel pages by a next address, and a booking points to its trip', () => {
    const { type, style, reasons } = typeOf(
      read('@readme/oas-examples/3.1/json/train-travel.json'),
      'booking',
    );
    expect(type.fields.find(({ name }) => name === 'trip_id')).toMatchObject({
      type: 'reference',
      refersTo: ['trip'],
    });
    expect(style?.list).toMatchObject({ items: '/data', paging: { kind: 'address', next: '/links/next' } });
    expect(reasons).toContainEqual({ about: 'trip_id', because: 'it is called after Trips', sure: 'likely' });
  });
});

// Large documents of other people's making, as registry packages ship them.
test.each([
  ['@readme/oas-examples/3.0/json/star-trek.json', 30],
  ['@directus/specs/dist/openapi.json', 15],
  ['@figma/rest-api-spec/openapi/openapi.yaml', 2],
  ['@readme/oas-examples/3.1/json/readme.json', 5],
])('%s gives at least %d record types that can be kept as they are', (file, fewest) => {
  const { types } = proposed(read(file));
  expect(types.length).toBeGreaterThanOrEqual(fewest);
  const recordTypes = types.map(({ type }) => type);
  const system = { key: 'learnt', tag: 'LE', name: 'Learnt', hue: 1, recordTypes };
  expect(systemSchema.validate(system).error).toBeUndefined();
  expect(new Set(recordTypes.map(({ name }) => name)).size).toBe(types.length);
  for (const { type, style } of types) {
    expect(type.fields.map(({ name }) => name)).toContain(type.idField);
    expect(type.fields.map(({ name }) => name)).toContain(type.nameField);
    const connection = {
      kind: 'http',
      format: 2,
      baseUrl: 'https://api.example',
      signIn: { kind: 'none' },
      usual: { list: style?.list, one: style?.one, version: style?.version },
      recordTypes: { [type.name]: style },
    };
    expect(httpConnectionSchema.validate(connection).error).toBeUndefined();
  }
});

/** A document with one collection, and what is given beside. */
const collection = (more: {
  readonly parameters?: readonly object[];
  readonly answer?: object;
  readonly headers?: object;
  readonly one?: object;
  readonly post?: object;
}) => ({
  openapi: '3.1.0',
  info: { title: 'Quay' },
  servers: [{ url: '/v1' }],
  paths: {
    '/piers': {
      get: {
        parameters: more.parameters,
        responses: {
          200: { headers: more.headers, content: json(more.answer ?? { type: 'array', items: pier }) },
        },
      },
      ...(more.post && { post: more.post }),
    },
    '/piers/{pier_id}': {
      get: { responses: { 200: { content: json(pier) } } },
      ...more.one,
    },
  },
});
const json = (schema: object) => ({ 'application/json': { schema } });
const pier = {
  type: 'object',
  properties: {
    pier_id: { type: 'string' },
    name: { type: 'string', maxLength: 40 },
    updated_at: { type: 'string', format: 'date-time' },
  },
};
const query = (name: string, schema: object = { type: 'string' }) => ({ name, in: 'query', schema });
const listOf = (document: unknown) => typeOf(document, 'pier').style?.list;

describe('how a list is asked', () => {
  test.each<[string, object, object]>([
    [
      'a cursor, where a parameter and the answer have one',
      {
        parameters: [query('page_token'), query('limit', { type: 'integer', maximum: 200 })],
        answer: {
          properties: {
            items: { type: 'array', items: pier },
            next_page_token: { type: ['string', 'null'] },
            total_count: { type: 'integer' },
          },
        },
      },
      {
        items: '/items',
        total: '/total_count',
        paging: {
          kind: 'cursor',
          parameter: 'page_token',
          next: '/next_page_token',
          limit: { name: 'limit', most: 200 },
        },
      },
    ],
    [
      'a Link header',
      { headers: { Link: {}, 'X-Total-Count': {} } },
      { paging: { kind: 'link' }, totalHeader: 'x-total-count' },
    ],
    [
      'page numbers from 0',
      { parameters: [query('page', { type: 'integer', minimum: 0 }), query('size')] },
      { paging: { kind: 'page', parameter: 'page', first: 0 } },
    ],
    [
      'an offset',
      { parameters: [query('offset'), query('limit')] },
      { paging: { kind: 'offset', parameter: 'offset', limit: { most: 100 } } },
    ],
    [
      'filters called as fields',
      { parameters: [query('name'), query('q'), query('other')] },
      { search: 'q', filter: { name: '{field}', fields: ['name'] } },
    ],
    [
      'filters in brackets',
      { parameters: [query('filter[name]')] },
      { filter: { name: 'filter[{field}]', fields: ['name'] } },
    ],
  ])('%s', (_what, more, list) => {
    expect(listOf(collection(more))).toMatchObject(list);
  });

  test('what changed is asked for, where a parameter and a field are there for it', () => {
    const { style } = typeOf(
      collection({ parameters: [query('updated_since', { type: 'string', format: 'date-time' })] }),
      'pier',
    );
    expect(style?.listening?.asked).toMatchObject({
      parameters: { updated_since: '{since}' },
      field: 'updated_at',
      form: 'date-time',
    });
  });
});

describe('how records are written', () => {
  const written = (one: object, post?: object) =>
    typeOf(collection({ one, ...(post && { post }) }), 'pier').style;
  const takes = (type: string, schema: object = pier) => ({
    requestBody: { content: { [type]: { schema } } },
  });

  test.each<[string, object, object]>([
    ['a merge patch', { patch: takes('application/merge-patch+json') }, { kind: 'merge patch' }],
    [
      'plain JSON',
      { patch: takes('application/json') },
      { kind: 'merge patch', mediaType: 'application/json' },
    ],
    [
      'a JSON Patch',
      { patch: takes('application/json-patch+json', { type: 'array' }) },
      { kind: 'json patch' },
    ],
    ['the whole record', { put: takes('application/json') }, { kind: 'whole record' }],
  ])('%s', (_what, one, changing) => {
    expect(written(one)?.changing).toMatchObject(changing);
  });

  test('with If-Match by tags, else by a field, else by nothing', () => {
    const match = { name: 'If-Match', in: 'header', schema: { type: 'string' } };
    expect(written({ patch: { ...takes('application/json'), parameters: [match] } })?.version).toEqual({
      kind: 'etag',
    });
    expect(written({})?.version).toEqual({ kind: 'field', field: 'updated_at' });
  });

  test('an envelope of what is sent and of what is answered', () => {
    const data = { type: 'object', properties: { data: pier } };
    const post = { ...takes('application/json', data), responses: { 201: { content: json(data) } } };
    expect(written({}, post)?.creating).toEqual({
      method: 'POST',
      path: '{path}',
      envelope: '/data',
      answer: '/data',
    });
  });

  test('what cannot be written is read-only, and what has to be given is required', () => {
    const post = takes('application/json', {
      type: 'object',
      required: ['name'],
      properties: { name: { type: 'string' } },
    });
    const { type } = typeOf(collection({ post }), 'pier');
    expect(type.fields).toEqual([
      { name: 'pier_id', label: 'Pier id', type: 'text', readOnly: true },
      { name: 'name', label: 'Name', type: 'text', maxLength: 40, required: true },
      { name: 'updated_at', label: 'Updated at', type: 'datetime', readOnly: true, keptBySystem: true },
    ]);
  });
});

test('the address of a server may be relative to the document, and hold variables', () => {
  expect(proposed(collection({})).baseUrl).toBe('https://api.example/v1');
  const servers = [
    {
      url: 'https://{region}.example/{base}',
      variables: { region: { default: 'north' }, base: { default: 'v2' } },
    },
  ];
  expect(proposed({ ...collection({}), servers }).baseUrl).toBe('https://north.example/v2');
});

test('ways of signing in: the one that the document wants, of those that need no person', () => {
  const withSchemes = (securitySchemes: object, security: object[] = []) =>
    proposed({ ...collection({}), security, components: { securitySchemes } }).signIn;
  const schemes = {
    person: { type: 'oauth2', flows: { authorizationCode: {} } },
    key: { type: 'apiKey', in: 'query', name: 'k' },
    client: { type: 'oauth2', flows: { clientCredentials: { tokenUrl: '/token', scopes: { read: '' } } } },
    basic: { type: 'http', scheme: 'basic' },
  };
  expect(withSchemes(schemes)).toEqual({ kind: 'query', name: 'k' });
  expect(withSchemes(schemes, [{ client: [] }])).toMatchObject({
    kind: 'oauth',
    tokenAddress: '/token',
    scope: 'read',
  });
  expect(withSchemes(schemes, [{ basic: [] }])).toMatchObject({ kind: 'basic' });
  expect(withSchemes({ person: schemes.person })).toBeUndefined();
});

test('records that lie below others are left out, with the reason', () => {
  const document = {
    openapi: '3.0.3',
    paths: {
      '/ships/{id}/crew': { get: { responses: { 200: { content: json({ type: 'array', items: pier }) } } } },
    },
  };
  expect(proposed(document).leftOut).toEqual([
    '/ships/{id}/crew: its records lie below another one, and are not listed as a whole.',
  ]);
});

test.each([
  [undefined, 'It is no object, and so no OpenAPI document.'],
  [{ swagger: '2.0' }, 'It is a Swagger 2.0 document; OpenAPI 3.0 and 3.1 are read.'],
  [{ openapi: '4.0.0' }, 'It is an OpenAPI 4.0.0 document; 3.0 and 3.1 are read.'],
  [{ info: {} }, 'It does not say that it is an OpenAPI document: “openapi” is missing.'],
])('%j is told in a sentence', (document, because) => {
  expect(proposeFromOpenApi(document)).toEqual({ ok: false, because });
});

test.each([
  ['paths that are a list', { openapi: '3.1.0', paths: [] }],
  ['operations that are text', { openapi: '3.1.0', paths: { '/a': 'x', '/b': { get: 'y' }, c: {} } }],
  ['circles', { openapi: '3.1.0', paths: { '/a': { $ref: '#/paths/~1a' } } }],
  [
    'answers of a strange shape',
    {
      openapi: '3.1.0',
      paths: {
        '/a': {
          get: {
            responses: { 200: { content: { 'application/json': { schema: { allOf: 7, items: [] } } } } },
          },
        },
      },
    },
  ],
])('%s break nothing', (_what, document) => {
  expect(proposed(document).types).toEqual([]);
});

import { readFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { proposeFromOpenApi, type Json, type ProblemView } from '@vast-knot/core';
import { createTestApp } from '../fixtures/app';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { phoneToBookings } from '../fixtures/harbour';
import { NoticeStream } from '../http/noticeStream';
import { ensurePeople } from '../people/people';
import { insertRule } from '../rules/repository';
import { insertTable } from '../tables/repository';
import { routes } from './routes';

const password = 'four grey gulls on deck';
let database: TestDatabase;
let server: Server;
let url: string;
let cookie = '';
const stream = new NoticeStream();
const unlimited = { REQUESTS_PER_MINUTE: '1000000', COSTLY_PER_MINUTE: '1000000' };

interface Described {
  readonly paths: Readonly<
    Record<
      string,
      Readonly<Record<string, { requestBody?: { content: Record<string, { schema: Schema }> } }>>
    >
  >;
}
interface Schema {
  readonly required?: readonly string[];
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly additionalProperties?: boolean;
}
let described: Described;

const { id: ruleId, version: _version, ...body } = phoneToBookings;

beforeAll(async () => {
  database = await openTestDatabase();
  await ensurePeople(database.pool, { mara: { password, role: 'administrator' } });
  await insertRule(database.pool, { id: ruleId, position: 1, body, published: true });
  await insertTable(database.pool, {
    name: 'zones',
    columns: [
      { name: 'port', label: 'Port', type: 'text', key: true },
      { name: 'zone', label: 'Zone', type: 'text', key: false },
    ],
    matching: 'exact',
    onMiss: 'blank',
    rows: [],
  });
  server = createServer(createTestApp(database, stream, unlimited));
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
  const response = await ask('POST', '/session', { name: 'mara', password });
  cookie = response.headers.get('set-cookie')?.split(';')[0] ?? '';
  described = (await (await ask('GET', '/openapi.json')).json()) as Described;
});
afterAll(async () => {
  stream.stop();
  server.closeAllConnections();
  await new Promise((done) => server.close(done));
  await database.close();
});

async function ask(method: string, path: string, given?: unknown) {
  return fetch(url + path, {
    method,
    redirect: 'manual',
    headers: {
      cookie,
      'if-match': '"1"',
      ...(given !== undefined && { 'content-type': 'application/json' }),
    },
    ...(given !== undefined && { body: JSON.stringify(given) }),
  });
}

// The schema of OpenAPI 3.1 of the OpenAPI Initiative, as a validator from the registry ships it.
test('the description is valid OpenAPI 3.1', () => {
  const file = join(
    __dirname,
    '../../../node_modules/@seriousme/openapi-schema-validator/schemas/v3.1/schema.json',
  );
  const ajv = new Ajv2020({ strict: false });
  addFormats.default(ajv);
  const valid = ajv.compile(JSON.parse(readFileSync(file, 'utf8')) as object);
  expect([valid(described), valid.errors]).toEqual([true, null]);
  expect(valid({ ...described, paths: { 'no slash': {} } })).toBe(false);
});

test('every schema in it is JSON Schema 2020-12', () => {
  const ajv = new Ajv2020({ strict: false });
  addFormats.default(ajv);
  for (const methods of Object.values(described.paths))
    for (const { requestBody } of Object.values(methods))
      for (const { schema } of Object.values(requestBody?.content ?? {}))
        expect(() => ajv.compile(schema)).not.toThrow();
});

test('every address is in it once, and its page is found', async () => {
  const all = Object.entries(described.paths).flatMap(([path, methods]) =>
    Object.keys(methods).map((method) => `${method} ${path.replace(/\{(\w+)\}/g, ':$1')}`),
  );
  expect(all.sort()).toEqual(routes.map(({ method, path }) => `${method} ${path}`).sort());
  const page = await ask('GET', '/docs');
  expect([page.status, page.headers.get('location')]).toEqual([302, '/reference/api']);
  expect((await fetch(`${url}/openapi.json`)).status).toBe(401);
});

test('our own learning reads it as that of any other application', () => {
  expect(proposeFromOpenApi(described as unknown as Json).ok).toBe(true);
});

/** An address with things in it that are there. */
const addressOf = (path: string) =>
  path
    .replace('/rules/{id}', `/rules/${ruleId}`)
    .replace('{name}', 'zones')
    .replaceAll('{system}', 'book')
    .replaceAll('{recordType}', 'company')
    .replace('{key}', 'book')
    .replace(/\{\w+\}/g, '0192f3a0-0001-7000-8000-0000000000ff');

test('what an address says it takes is what it takes: what must be there, and that nothing else may', async () => {
  const [told, wrong]: [string[], string[]] = [[], []];
  const lookedForBefore = new Set<string>();
  for (const [path, methods] of Object.entries(described.paths)) {
    for (const [method, { requestBody }] of Object.entries(methods)) {
      const schema = requestBody?.content['application/json']?.schema;
      if (!schema || method === 'get') continue;
      const name = `${method} ${path}`;
      const answer = await ask(method.toUpperCase(), addressOf(path), { 'no such member': 1 });
      const { errors = [], status } = (await answer.json()) as ProblemView;
      if (status === 404) {
        lookedForBefore.add(name);
        continue;
      }
      if (status !== 422) wrong.push(`${name}: ${status}`);
      const missing = errors.filter(({ message }) => message.endsWith('is required')).map(({ at }) => at);
      const wanted = schema.required ?? [];
      if (schema.properties && missing.sort().join() !== [...wanted].sort().join())
        wrong.push(`${name} wants ${missing.join()} and says ${wanted.join()}`);
      const refuses = errors.some(({ at }) => at === 'no such member');
      if (schema.properties && refuses !== (schema.additionalProperties === false))
        wrong.push(`${name} does ${refuses ? '' : 'not '}refuse other members`);
      // What it says may be there is never refused as unknown.
      const each = Object.fromEntries(
        Object.keys(schema.properties ?? {}).map((member) => [member, { odd: { odd: 1 } }]),
      );
      const second = (await (await ask(method.toUpperCase(), addressOf(path), each)).json()) as ProblemView;
      const unknown = Object.keys(each).filter((member) =>
        second.errors?.some(({ at, message }) => at === member && message.endsWith('is not allowed')),
      );
      if (unknown.length > 0) wrong.push(`${name} says it takes ${unknown.join()}, and does not`);
      told.push(name);
    }
  }
  expect(wrong).toEqual([]);
  // These look first for what is named in their path, which is not there in this test; an answer may have any names.
  expect([...lookedForBefore].sort()).toEqual([
    'patch /records/{system}/{recordType}/{id}',
    'post /forms/{system}/{recordType}/answers',
    'post /reconciles/{id}/writes',
    'post /runs/{id}/again',
    'put /connections/drafts/{id}/secrets/{name}',
    'put /systems/{key}/secrets/{name}',
  ]);
  expect(told.length).toBeGreaterThan(30);
});

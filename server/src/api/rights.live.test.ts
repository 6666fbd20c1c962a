import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Router } from 'express';
import { allRights, builtInRoles, type Right } from '@vast-knot/core';
import { createTestApp } from '../fixtures/app';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { changePerson, ensurePeople, keepPassword, makePerson, readPerson } from '../people/people';
import { costly } from './costly';
import { routes } from './routes';
import { NoticeStream } from '../http/noticeStream';

const password = 'a password of the harbour';
const everyRole = builtInRoles.map(({ key }) => key);
const rightsOf = (role: string) => builtInRoles.find(({ key }) => key === role)?.rights ?? [];
const may = (role: string, right: Right) => rightsOf(role).includes(right);
let database: TestDatabase;
let server: Server;
let url: string;
let app: ReturnType<typeof createTestApp>;
const stream = new NoticeStream();
const cookies = new Map<string, string>();

beforeAll(async () => {
  database = await openTestDatabase();
  await ensurePeople(database.pool, Object.fromEntries(everyRole.map((role) => [role, { password, role }])));
  app = createTestApp(database, stream);

  server = createServer(app);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  for (const role of everyRole) {
    const response = await fetch(`${url}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: role, password }),
    });
    cookies.set(role, response.headers.get('set-cookie')?.split(';')[0] ?? '');
    await response.arrayBuffer();
  }
});
afterAll(async () => {
  stream.stop();
  server.closeAllConnections();
  await new Promise((done) => server.close(done));
  await database.close();
});

/** An address of a route, with something in the place of each parameter. */
const addressOf = (path: string) =>
  path.replaceAll(':system', 'book').replaceAll(':recordType', 'company').replace(/:\w+/g, 'nobody');

async function ask(method: string, path: string, role: string | undefined) {
  const stop = new AbortController();
  const response = await fetch(`${url}/api${addressOf(path)}`, {
    method: method.toUpperCase(),
    headers: { cookie: cookies.get(role ?? '') ?? '' },
    signal: stop.signal,
  });
  const { status } = response;
  // The stream of notices never ends by itself.
  stop.abort();
  await response.text().catch(() => undefined);
  return status;
}

interface Layer {
  readonly route?: { readonly path: string; readonly methods: Readonly<Record<string, boolean>> };
  readonly handle?: { readonly stack?: readonly Layer[] };
}

/** Every address that the router itself knows, whoever put it there. */
function addressesOf(stack: readonly Layer[]): readonly string[] {
  return stack.flatMap(({ route, handle }) =>
    route
      ? Object.keys(route.methods).map((method) => `${method} ${String(route.path)}`)
      : addressesOf(handle?.stack ?? []),
  );
}

test('every address of the router is in the list of routes, each of which names a right', () => {
  const { stack } = (app as unknown as { router: Router & { stack: Layer[] } }).router;
  const named = new Set(routes.map(({ method, path }) => `${method} ${path}`));
  const others = addressesOf(stack).filter((address) => !named.has(address));
  // Forms are answered by anybody, messages of systems are signed, signing in and one's own page want no right, and anybody may ask whether the server lives.
  expect(others.sort()).toEqual([
    'delete /',
    'delete /second-factor',
    'delete /sessions',
    'delete /sessions/:id',
    'delete /tokens/:id',
    'get /',
    'get /:address',
    'get /health,/health/ready',
    'get /health/live',
    'get /sessions',
    'get /tokens',
    'post /',
    'post /:address',
    'post /:address/shown',
    'post /:system',
    'post /code',
    'post /invitation',
    'post /second-factor',
    'post /tokens',
    'put /habits',
    'put /invitation',
    'put /password',
    'put /profile',
    'put /second-factor',
  ]);
  expect(named.size).toBe(routes.length);
  for (const { right } of routes) expect(allRights).toContain(right);
  for (const address of costly) expect(named).toContain(address);
});

test('no answer of the API is kept by a browser', async () => {
  const answer = await fetch(`${url}/api/rules`, { headers: { cookie: cookies.get('administrator') ?? '' } });
  expect([answer.status, answer.headers.get('cache-control')]).toEqual([200, 'no-store']);
});

test.each(routes.map(({ method, path }) => [method, path] as const))(
  '%s %s is for nobody who is not signed in',
  async (method, path) => expect(await ask(method, path, undefined)).toBe(401),
);

describe.each(everyRole)('as %s', (role) => {
  test.each(routes.map(({ method, path, right }) => [method, path, right] as const))(
    '%s %s wants %s',
    async (method, path, right) => {
      const status = await ask(method, path, role);
      if (may(role, right)) expect([401, 403]).not.toContain(status);
      else expect(status).toBe(403);
      expect(status).toBeLessThan(500);
    },
  );
});

describe('what somebody may is read with each request', () => {
  const signIn = async (name: string) => {
    const response = await fetch(`${url}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name, password }),
    });
    await response.arrayBuffer();
    if (response.ok) cookies.set(name, response.headers.get('set-cookie')?.split(';')[0] ?? '');
    return response.status;
  };

  test('whoever is given another role has that at once, in the session that is open', async () => {
    await makePerson(database.pool, { name: 'mara', password, role: 'administrator', by: 'the test' });
    expect(await signIn('mara')).toBe(200);
    expect(await ask('get', '/rules', 'mara')).toBe(200);
    expect(await ask('post', '/pauses/everything/go-on', 'mara')).not.toBe(403);
    await changePerson(database.pool, 'mara', { role: 'viewer' });
    expect(await ask('post', '/pauses/everything/go-on', 'mara')).toBe(403);
    const session = await fetch(`${url}/api/session`, { headers: { cookie: cookies.get('mara') ?? '' } });
    expect(await session.json()).toMatchObject({ name: 'mara', role: { key: 'viewer', name: 'Viewer' } });
    await changePerson(database.pool, 'mara', { role: 'administrator' });
    expect(await ask('post', '/pauses/everything/go-on', 'mara')).not.toBe(403);
  });

  test('whoever is stopped is signed out at once, cannot sign in anew, and can again once they are let', async () => {
    await makePerson(database.pool, { name: 'jarl', password, role: 'viewer', by: 'the test' });
    await signIn('jarl');
    expect(await ask('get', '/rules', 'jarl')).toBe(200);
    await changePerson(database.pool, 'jarl', { stopped: true });
    expect(await ask('get', '/rules', 'jarl')).toBe(401);
    expect(await signIn('jarl')).toBe(401);
    // The others stay signed in.
    expect(await ask('get', '/rules', 'viewer')).toBe(200);
    await changePerson(database.pool, 'jarl', { stopped: false });
    expect(await ask('get', '/rules', 'jarl')).toBe(401);
    expect(await signIn('jarl')).toBe(200);
  });

  test('whoever the settings name is made once, and stays as they were changed here', async () => {
    const users = { una: { password, role: 'viewer' } };
    await ensurePeople(database.pool, users);
    await changePerson(database.pool, 'una', { role: 'editor' });
    await ensurePeople(database.pool, users);
    expect((await readPerson(database.pool, 'una'))?.role.key).toBe('editor');
    // The password of the settings is theirs until they choose one.
    const next = 'six green buoys at noon';
    await ensurePeople(database.pool, { una: { password: next, role: 'viewer' } });
    expect(await signIn('una')).toBe(401);
    await keepPassword(database.pool, 'una', password);
    await ensurePeople(database.pool, { una: { password: next, role: 'viewer' } });
    expect(await signIn('una')).toBe(200);
  });
});

test('how somebody reads is kept for them alone, and bounded', async () => {
  const put = (role: string, body: unknown) =>
    fetch(`${url}/api/session/habits`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json', cookie: cookies.get(role) ?? '' },
      body: JSON.stringify(body),
    });
  const habits = { zone: 'Pacific/Auckland', form: 'figures alone', visited: true };
  expect(await (await put('viewer', habits)).json()).toMatchObject({ name: 'viewer', habits });
  const of = async (role: string) =>
    (
      (await (
        await fetch(`${url}/api/session`, { headers: { cookie: cookies.get(role) ?? '' } })
      ).json()) as {
        habits: unknown;
      }
    ).habits;
  expect(await of('viewer')).toEqual(habits);
  expect(await of('administrator')).toEqual({});
  expect((await put('viewer', { zone: 'Mars/Base' })).status).toBe(422);
  expect((await put('viewer', { colour: 'red' })).status).toBe(422);
  expect((await put('nobody', {})).status).toBe(401);
});

test('a viewer may ask what a rule would do, and may not do it', () => {
  expect([may('viewer', 'rules.preview'), may('viewer', 'rules.request')]).toEqual([true, false]);
  expect(rightsOf('viewer').filter((right) => !right.endsWith('.read'))).toEqual(['rules.preview']);
});

test('each role may what the one before it may, and the work of the others is not theirs', () => {
  for (const [at, { rights }] of builtInRoles.entries())
    expect((builtInRoles[at - 1]?.rights ?? []).filter((right) => !rights.includes(right))).toEqual([]);
  expect([may('editor', 'rules.edit'), may('editor', 'rules.publish')]).toEqual([true, false]);
  expect([may('publisher', 'runs.undo'), may('publisher', 'systems.change')]).toEqual([true, false]);
  expect([may('publisher', 'people.read'), may('publisher', 'audit.read')]).toEqual([false, false]);
  expect(rightsOf('administrator')).toEqual(allRights);
});

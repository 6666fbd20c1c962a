import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Router } from 'express';
import { pino } from 'pino';
import { allRights, may, roles, type Role } from '@vast-knot/core';
import { Agent } from 'undici';
import { here } from '../compute/computer';
import { Gates } from '../connector/gates';
import { readConfig } from '../config/config';
import { Seal } from '../db/seal';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { openHarbour } from '../fixtures/harbour';
import { ensureUsers } from '../http/session';
import { createApp } from './app';
import { routes } from './routes';
import { NoticeStream } from '../http/noticeStream';

const sealKey = Buffer.alloc(32, 7).toString('base64');
const password = 'a password of the harbour';
const everyRole = Object.keys(roles) as Role[];
let database: TestDatabase;
let server: Server;
let url: string;
let app: ReturnType<typeof createApp>;
const stream = new NoticeStream();
const cookies = new Map<string, string>();

beforeAll(async () => {
  database = await openTestDatabase();
  const config = readConfig({
    DATABASE_URL: database.url,
    SESSION_SECRET: 'x'.repeat(32),
    SEAL_KEY: sealKey,
    WEB_FOLDER: '/nowhere',
  });
  const { registry } = openHarbour(database.pool);
  await ensureUsers(database.pool, Object.fromEntries(everyRole.map((role) => [role, { password, role }])));
  app = createApp({
    config,
    pool: database.pool,
    registry: { get: () => Promise.resolve(registry), recent: () => Promise.resolve(registry) },
    computer: here,
    stream,
    seal: new Seal(sealKey),
    outside: { dispatcher: new Agent(), gates: new Gates(), allowedOutbound: [] },
    log: pino({ level: 'silent' }),
  });
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
  // Messages of systems are signed, signing in wants no right, and anybody may ask whether the server lives.
  expect(others.sort()).toEqual([
    'delete /',
    'get /',
    'get /health,/health/ready',
    'get /health/live',
    'post /',
    'post /:system',
  ]);
  expect(named.size).toBe(routes.length);
  for (const { right } of routes) expect(allRights).toContain(right);
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

test('a reader may ask what a rule would do, and may not do it', () => {
  expect(may('reader', 'rules.preview')).toBe(true);
  expect(may('reader', 'rules.request')).toBe(false);
  expect(
    roles.reader.filter((right) => /\.(change|edit|publish|stop|retry|steer|send)$/.test(right)),
  ).toEqual([]);
});

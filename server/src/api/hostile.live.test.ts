import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { ProblemView } from '@vast-knot/core';
import { createTestApp } from '../fixtures/app';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { NoticeStream } from '../http/noticeStream';
import { ensurePeople } from '../people/people';
import { routes } from './routes';

/** What is asked here is to be answered, and not for being too much. */
const unlimited = { REQUESTS_PER_MINUTE: '1000000000', COSTLY_PER_MINUTE: '1000000000', TRUST_PROXY: '1' };
const password = 'four grey gulls on deck';
const roles = ['viewer', 'administrator'] as const;
let database: TestDatabase;
let server: Server;
let url: string;
const stream = new NoticeStream();
const cookies = new Map<string, string>();

beforeAll(async () => {
  database = await openTestDatabase();
  await ensurePeople(database.pool, Object.fromEntries(roles.map((role) => [role, { password, role }])));
  server = createServer(createTestApp(database, stream, unlimited));
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
  for (const role of roles) {
    const response = await fetch(`${url}/session`, {
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

/** A request as it is sent: the text of its body, whatever that is. */
interface Sent {
  readonly method: string;
  readonly path: string;
  readonly role?: string | undefined;
  readonly body?: string | undefined;
  readonly headers?: Readonly<Record<string, string>>;
}

/** What was wrong with an answer, with the request that made it; empty where nothing was. */
const wrong: string[] = [];
let asked = 0;

/** What no answer tells: our folders and files, statements, stacks. */
const ofUs =
  /\/work\/|\/server\/src|node_modules|\.ts:\d|\bSELECT \w|\bINSERT INTO\b|\bUPDATE \w+ SET\b|\n\s+at \w|violates|syntax error at/;

/** What took long while others were asked at the same time. */
const slow: Sent[] = [];

async function send(sent: Sent): Promise<ProblemView | undefined> {
  const { method, path, role, body, headers = {} } = sent;
  asked++;
  const began = performance.now();
  const response = await fetch(url + path, {
    method: method.toUpperCase(),
    headers: {
      cookie: cookies.get(role ?? '') ?? '',
      'if-match': '"1"',
      // Each from an address of its own, so that none is too many.
      'x-forwarded-for': `2001:db8:${(asked >> 8).toString(16)}:${(asked & 255).toString(16)}::1`,
      ...(body !== undefined && { 'content-type': 'application/json' }),
      ...headers,
    },
    ...(body !== undefined && { body }),
    signal: AbortSignal.timeout(10_000),
  });
  const text = await response.text();
  const took = performance.now() - began;
  const told = `${method} ${path.slice(0, 120)} as ${role ?? 'nobody'} with ${body?.slice(0, 160) ?? 'nothing'}`;
  if (response.status === 500) wrong.push(`500: ${told}`);
  if (ofUs.test(text)) wrong.push(`tells of us: ${told}: ${text.slice(0, 300)}`);
  if (took > 1000) slow.push(sent);
  if (response.status >= 400 && text !== '') {
    if (response.headers.get('content-type')?.startsWith('application/problem+json') === true)
      return JSON.parse(text) as ProblemView;
    wrong.push(`no problem details: ${told}: ${text.slice(0, 200)}`);
  }
  return undefined;
}

/** Sends all, some at a time. */
async function sendAll(all: readonly Sent[]): Promise<void> {
  const left = [...all];
  await Promise.all(
    Array.from({ length: 4 }, async () => {
      for (let next = left.pop(); next; next = left.pop()) await send(next);
    }),
  );
  await sendSlowAgain();
}

/** What took long is asked again, alone: this machine does other things too. What takes long each time is wrong. */
async function sendSlowAgain(): Promise<void> {
  for (const sent of slow.splice(0)) {
    for (let tries = 0; tries < 5; tries++) {
      await send(sent);
      if (slow.splice(0).length === 0) break;
      if (tries === 4) wrong.push(`took over a second each time: ${sent.method} ${sent.path.slice(0, 120)}`);
    }
  }
}

/** Returns what was found wrong since the last time. */
const found = () => wrong.splice(0);

/** The stream of notices never ends; the others are asked. */
const asking = routes.filter(({ path }) => path !== '/stream');
const changing = asking.filter(({ method }) => method !== 'get');

const uuid = '0192f3a0-0001-7000-8000-0000000000ff';
const addressOf = (path: string, of = uuid) =>
  path.replaceAll(':system', 'book').replaceAll(':recordType', 'company').replace(/:\w+/g, of);

const hostileIds = [
  'nobody',
  '%00',
  'a%00b',
  '%ED%A0%80',
  '%',
  '..%2F..%2Fetc',
  '__proto__',
  'constructor',
  '-'.repeat(36),
  '9'.repeat(18),
  '9'.repeat(40),
  '-1',
  '%27%20OR%201=1',
  'x'.repeat(4000),
  '%F0%9F%9A%A2',
];

const deep = (levels: number, open: string, close: string) => open.repeat(levels) + close.repeat(levels);

const hostileBodies = [
  undefined,
  '',
  ' ',
  'null',
  'true',
  '17',
  '"text"',
  '[]',
  '{}',
  '{',
  '\u0000',
  '{"__proto__":{"role":"administrator"}}',
  '{"constructor":{"prototype":{"role":"administrator"}}}',
  '{"a":"\\u0000"}',
  '{"a":"\\ud800"}',
  '{"a\\u0000":1}',
  deep(50_000, '[', ']'),
  `${'{"a":'.repeat(20_000)}1${'}'.repeat(20_000)}`,
  deep(99, '[', ']'),
  `{"a":${'9'.repeat(100_000)}}`,
  `{"a":1e999999999}`,
  `{"a":"${'x'.repeat(900_000)}"}`,
  `"${'x'.repeat(3_000_000)}"`,
];

/** Values that may be what a field is not made for. */
const hostileValues = [
  'null',
  '0',
  '-1',
  '1.5',
  '1e400',
  '99999999999999999999',
  'true',
  '""',
  '" "',
  '"__proto__"',
  '"\\u0000"',
  '"\\udc00"',
  '"../../etc/passwd"',
  `"'; DROP TABLE people; --"`,
  '"2026-13-45T99:00:00Z"',
  '"http://169.254.169.254/"',
  `"${'x'.repeat(20_000)}"`,
  '[]',
  '[null]',
  '[[]]',
  '{}',
  '{"__proto__":{"x":1}}',
  deep(90, '[', ']'),
];

/** Values of which one is often what a field is made for. */
const usualValues = [
  '"abc"',
  `"${uuid}"`,
  '"2026-11-27T08:00:00Z"',
  '"https://office.example/x"',
  '"1"',
  '7',
  'true',
  '[]',
  '["abc"]',
  `["${uuid}"]`,
  '{}',
  '{"name":"abc"}',
  'null',
  '[{"id":1}]',
];

const bodyOf = (members: ReadonlyMap<string, string>) =>
  `{${[...members].map(([name, value]) => `${JSON.stringify(name)}:${value}`).join(',')}}`;

const wrongNames = (problem: ProblemView | undefined) =>
  (problem?.errors ?? []).map(({ at }) => at.split('/')[0] ?? '').filter((name) => name !== '');

/** Finds out from its answers which fields a route wants, and for each a value that it does not complain of. */
async function learnt(route: Pick<Sent, 'method' | 'path'>): Promise<Map<string, string>> {
  const members = new Map<string, string>();
  for (let round = 0; round < 4; round++) {
    const missing = wrongNames(await send({ ...route, role: 'administrator', body: bodyOf(members) })).filter(
      (name) => !members.has(name),
    );
    if (missing.length === 0) return members;
    for (const name of missing) members.set(name, 'null');
    for (const value of usualValues) {
      const tried = new Map(members);
      for (const name of missing) tried.set(name, value);
      const stillWrong = new Set(
        wrongNames(await send({ ...route, role: 'administrator', body: bodyOf(tried) })),
      );
      for (const name of missing)
        if (!stillWrong.has(name) && members.get(name) === 'null') members.set(name, value);
    }
  }
  return members;
}

test('nothing that can stand in an address in the place of an id fails', async () => {
  await sendAll(
    asking.flatMap(({ method, path }) =>
      path.includes(':')
        ? hostileIds.map((id) => ({
            method,
            path: path.replace(/:\w+/g, id),
            role: 'administrator',
            ...(method === 'get' ? {} : { body: '{}' }),
          }))
        : [],
    ),
  );
  expect(found()).toEqual([]);
}, 120_000);

test('no body fails, whatever it is', async () => {
  await sendAll(
    changing.flatMap(({ method, path }) =>
      hostileBodies.map((body) => ({ method, path: addressOf(path), role: 'administrator', body })),
    ),
  );
  await sendAll(
    changing.flatMap(({ method, path }) =>
      [undefined, 'viewer'].flatMap((role) =>
        [undefined, '{}', '{"a":"\\u0000"}'].map((body) => ({ method, path: addressOf(path), role, body })),
      ),
    ),
  );
  expect(found()).toEqual([]);
}, 240_000);

test('no value of a field fails, with the others as they should be', async () => {
  for (const { method, path } of changing) {
    const route = { method, path: addressOf(path) };
    const members = await learnt(route);
    await sendAll(
      [...members.keys()].flatMap((name) =>
        hostileValues.map((value) => ({
          ...route,
          role: 'administrator',
          body: bodyOf(new Map([...members, [name, value]])),
        })),
      ),
    );
  }
  expect(found()).toEqual([]);
}, 300_000);

/** What lists are narrowed by, all together. */
const narrowing =
  'limit before after search cursor field value text rule system recordType state result from to kind own group reason order by version key name in since id at'.split(
    ' ',
  );

test('nothing that a list is asked for with fails', async () => {
  const values = ['%ED%A0%80', '9'.repeat(30)];
  await sendAll(
    asking
      .filter(({ method }) => method === 'get')
      .flatMap(({ path }) =>
        narrowing.flatMap((name) =>
          [...values.map((value) => `${name}=${value}`), `${name}=a&${name}=b`, `${name}[a]=b`].map(
            (query) => ({
              method: 'get',
              path: `${addressOf(path)}?${query}`,
              role: 'administrator',
            }),
          ),
        ),
      ),
  );
  expect(found()).toEqual([]);
}, 300_000);

test('no page of another origin, and nobody who is not signed in, changes anything', async () => {
  for (const { method, path } of changing) {
    const body = '{}';
    for (const origin of ['https://elsewhere.example', 'null', 'not an address']) {
      const problem = await send({
        method,
        path: addressOf(path),
        role: 'administrator',
        body,
        headers: { origin },
      });
      expect([path, problem?.status]).toEqual([path, 403]);
    }
    expect([path, (await send({ method, path: addressOf(path), body }))?.status]).toEqual([path, 401]);
  }
  expect(found()).toEqual([]);
}, 120_000);

test('nothing that signing in and one’s own page take fails', async () => {
  const own = [
    ['post', '/session'],
    ['post', '/session/code'],
    ['post', '/session/invitation'],
    ['put', '/session/invitation'],
    ['put', '/session/habits'],
    ['put', '/session/profile'],
    ['put', '/session/second-factor'],
    ['post', '/session/tokens'],
  ] as const;
  for (const [method, path] of own) {
    const members = await learnt({ method, path });
    await sendAll([
      ...hostileBodies.slice(0, 18).map((body) => ({ method, path, role: 'viewer', body })),
      ...[...members.keys()].flatMap((name) =>
        hostileValues.map((value) => ({
          method,
          path,
          role: 'viewer',
          body: bodyOf(new Map([...members, [name, value]])),
        })),
      ),
    ]);
  }
  expect(found()).toEqual([]);
  expect(asked).toBeGreaterThan(10_000);
}, 120_000);

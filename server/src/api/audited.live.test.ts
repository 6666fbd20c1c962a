import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { AuditPage } from '@vast-knot/core';
import { verifyChain } from '../audit/chain';
import { createTestApp } from '../fixtures/app';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { NoticeStream } from '../http/noticeStream';
import { ensurePeople } from '../people/people';
import { audited, computing } from './audited';
import { routes } from './routes';

const password = 'four grey gulls on deck';
let database: TestDatabase;
let server: Server;
let url: string;
const stream = new NoticeStream();
const cookies = new Map<string, string>();

beforeAll(async () => {
  database = await openTestDatabase();
  await ensurePeople(database.pool, {
    mara: { password, role: 'administrator' },
    una: { password, role: 'viewer' },
  });
  server = createServer(createTestApp(database, stream));
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
});
afterAll(async () => {
  stream.stop();
  server.closeAllConnections();
  await new Promise((done) => server.close(done));
  await database.close();
});

async function ask(who: string, method: string, path: string, body?: unknown, ifMatch?: number) {
  const response = await fetch(url + path, {
    method,
    headers: {
      cookie: cookies.get(who) ?? '',
      ...(body !== undefined && { 'content-type': 'application/json' }),
      ...(ifMatch !== undefined && { 'if-match': `"${ifMatch}"` }),
    },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  const cookie = response.headers.get('set-cookie')?.split(';')[0];
  if (cookie !== undefined) cookies.set(who, cookie);
  return response;
}

const signIn = (who: string, typed = password) =>
  ask(who, 'POST', '/session', { name: who, password: typed });
const entries = async (query = '') =>
  ((await (await ask('mara', 'GET', `/audit${query}`)).json()) as AuditPage).entries;

test('every address that changes something is told in the audit, or is said to change nothing', () => {
  const changing = routes
    .filter(({ method }) => method !== 'get')
    .map(({ method, path }) => `${method} ${path}`);
  expect([...audited.keys(), ...computing].sort()).toEqual(changing.sort());
});

test('signing in, failing to, and what one was not let do stand there, with who and from where', async () => {
  await signIn('mara');
  await signIn('mara-s secret, in the wrong field', 'anything at all');
  await signIn('una', 'not her password');
  await signIn('una');
  expect((await ask('una', 'PUT', '/rules/order', { ids: [] })).status).toBe(403);
  expect((await ask('una', 'GET', '/audit')).status).toBe(403);
  const told = (await entries()).map(({ person, what, key, result, because = '' }) => [
    person,
    what,
    key,
    result,
    because,
  ]);
  expect(told).toEqual([
    ['una', 'was not let', 'get /audit', 'refused', 'una may not see who did what.'],
    [
      'una',
      'was not let',
      'put /rules/order',
      'refused',
      'una may not publish and withdraw rules, and put them in order.',
    ],
    ['una', 'signed in', 'una', 'done', ''],
    ['una', 'could not sign in', 'una', 'refused', 'Name and password do not match.'],
    ['', 'could not sign in', '', 'refused', 'Nobody of this name may sign in.'],
    ['mara', 'signed in', 'mara', 'done', ''],
  ]);
  expect((await entries())[0]?.from).toContain('127.0.0.1');
});

test('what was changed stands there from what to what, and what was refused as it was asked for does not', async () => {
  const environment = { name: 'Trial', colour: 'moss', secondPerson: false };
  expect((await ask('mara', 'PUT', '/environment', environment, 1)).status).toBe(200);
  expect((await ask('mara', 'PUT', '/environment', { ...environment, name: 'Real' }, 1)).status).toBe(412);
  expect(await entries('?kind=environment')).toMatchObject([
    {
      person: 'mara',
      what: 'changed the environment',
      result: 'done',
      changes: [
        { at: '/name', before: '', after: 'Trial' },
        { at: '/colour', before: 'plain', after: 'moss' },
        { at: '/revision', before: '1', after: '2' },
      ],
    },
  ]);
});

test('what is made stands there under its own key and name', async () => {
  const table = {
    name: 'Harbour codes',
    columns: [
      { name: 'code', label: 'Code', type: 'text', key: true },
      { name: 'port', label: 'Port', type: 'text', key: false },
    ],
    matching: 'exact',
    onMiss: 'blank',
  };
  const made = await ask('mara', 'POST', '/tables', table);
  expect([made.status, await made.text()]).toEqual([201, expect.stringContaining('Harbour codes')]);
  const [entry] = await entries('?kind=table');
  expect(entry).toMatchObject({
    what: 'made a table',
    key: 'Harbour codes',
    name: 'Harbour codes',
    result: 'done',
  });
  expect(entry?.changes[0]?.after).toContain('Harbour codes');
});

test('no secret and no password stands in it', async () => {
  const token = await ask('mara', 'POST', '/session/tokens', {
    name: 'nightly',
    rights: ['rules.read'],
    days: 1,
  });
  const { token: text } = (await token.json()) as { token: string };
  const invited = await ask('mara', 'POST', '/people/invitations', { name: 'jarl', role: 'viewer' });
  const { link } = (await invited.json()) as { link: string };
  const next = 'six green buoys at noon';
  expect((await ask('mara', 'PUT', '/session/password', { now: password, next })).status).toBe(204);
  const all = JSON.stringify(await entries());
  expect(all).toContain('made a token');
  expect(all).toContain('invited somebody');
  expect(all).toContain('changed their password');
  for (const secret of [text, link.split('#')[1] ?? '?', password, next]) expect(all).not.toContain(secret);
});

test('it is given as CSV and as lines of JSON, a cell that a spreadsheet would run marked as text', async () => {
  await ask('mara', 'PUT', '/session/profile', { fullName: '=HYPERLINK("x")', mail: '' });
  const table = {
    name: '=cmd',
    columns: [
      { name: 'code', label: 'Code', type: 'text', key: true },
      { name: 'port', label: 'Port', type: 'text', key: false },
    ],
    matching: 'exact',
    onMiss: 'blank',
  };
  expect((await ask('mara', 'POST', '/tables', table)).status).toBe(201);
  const csv = await (await ask('mara', 'GET', '/audit/file?as=csv&kind=table')).text();
  expect(csv.split('\r\n')[0]).toBe('Number,At,Person,Token,From,What,Kind,Key,Name,Result,Because,Changes');
  expect(csv).toContain(",'=cmd,");
  expect(csv).not.toContain(',=cmd,');
  const lines = (await (await ask('mara', 'GET', '/audit/file?as=jsonl')).text()).trim().split('\n');
  expect(lines).toHaveLength((await entries()).length);
  expect(JSON.parse(lines[0] ?? '')).toMatchObject({ key: '=cmd' });
  expect(await verifyChain(database.pool)).toMatchObject({ ok: true, entries: lines.length });
});

test('whoever tries everything does not fill it', async () => {
  for (let at = 0; at < 40; at++) await ask('una', 'PUT', '/rules/order', { ids: [] });
  const refused = await entries('?person=una&text=was%20not%20let');
  expect(refused.length).toBeLessThanOrEqual(20);
});

import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createTestApp } from '../fixtures/app';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { NoticeStream } from '../http/noticeStream';
import { ensurePeople } from '../people/people';

const password = 'a password of the harbour';
const folder = mkdtempSync(join(tmpdir(), 'vast-knot-pages-'));
const stream = new NoticeStream();
let database: TestDatabase;
const servers: Server[] = [];

beforeAll(async () => {
  mkdirSync(join(folder, 'assets'));
  writeFileSync(join(folder, 'index.html'), '<!doctype html><title>Vast Knot</title>');
  writeFileSync(join(folder, 'assets/known.js'), '// known');
  database = await openTestDatabase();
  await ensurePeople(database.pool, { mara: { password, role: 'administrator' } });
});
afterAll(async () => {
  stream.stop();
  for (const server of servers) {
    server.closeAllConnections();
    await new Promise((done) => server.close(done));
  }
  await database.close();
  rmSync(folder, { recursive: true });
});

/** An installation with further settings; returns its address. */
async function serve(settings: Record<string, string>): Promise<string> {
  const app = createTestApp(database, stream, { WEB_FOLDER: folder, ...settings });
  const server = createServer(app);
  servers.push(server);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

/** What a proxy that takes care of TLS says. */
const overTls = { 'x-forwarded-proto': 'https', 'x-forwarded-host': 'knot.example' };

const signIn = (url: string, headers: Record<string, string>) =>
  fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...headers },
    body: JSON.stringify({ name: 'mara', password }),
  });

const cookieOf = (response: Response) => response.headers.get('set-cookie')?.split(';')[0] ?? '';

test('behind a proxy that is trusted one signs in over TLS, with a cookie of this host alone', async () => {
  const url = await serve({ PUBLIC_URL: 'https://knot.example', TRUST_PROXY: 'loopback' });
  const signedIn = await signIn(url, overTls);
  expect(signedIn.status).toBe(200);
  const set = signedIn.headers.get('set-cookie') ?? '';
  expect(set).toMatch(/^__Host-vast-knot=/);
  expect(set).toMatch(/; Path=\/; .*HttpOnly; Secure; SameSite=Strict/);
  const cookie = cookieOf(signedIn);
  const post = (origin: string) =>
    fetch(`${url}/api/pauses/everything/go-on`, {
      method: 'POST',
      headers: { ...overTls, cookie, origin, 'content-type': 'application/json' },
      body: '{}',
    });
  // Our own page is the one that the proxy serves.
  expect((await post('https://knot.example')).status).toBeLessThan(300);
  expect((await post('https://elsewhere.example')).status).toBe(403);
});

test('what is said by whoever is no proxy of ours is not believed', async () => {
  const url = await serve({ PUBLIC_URL: 'https://knot.example' });
  const signedIn = await signIn(url, overTls);
  expect(signedIn.headers.get('set-cookie')).toBeNull();
});

test('a session ends a week after signing in, however much it is used', async () => {
  const url = await serve({});
  const signedIn = await signIn(url, {});
  const cookie = cookieOf(signedIn);
  expect(cookie).toMatch(/^vast-knot=/);
  const rules = () => fetch(`${url}/api/rules`, { headers: { cookie } }).then(({ status }) => status);
  expect(await rules()).toBe(200);
  const began = (days: number) =>
    database.pool.query(
      `UPDATE sessions SET sess = jsonb_set(sess::jsonb, '{since}', to_jsonb($1::float8))::json`,
      [Date.now() - days * 86_400_000],
    );
  await began(6.9);
  expect(await rules()).toBe(200);
  await began(7.1);
  expect(await rules()).toBe(401);
  // It is gone, not only refused.
  await began(0);
  expect(await rules()).toBe(401);
});

test('an asset that is not there tells no folder of ours', async () => {
  const url = await serve({});
  expect((await fetch(`${url}/assets/known.js`)).status).toBe(200);
  for (const path of ['/assets/unknown.js', '/assets/..%2f..%2fpackage.json', '/assets/%00']) {
    const answer = await fetch(url + path);
    const text = await answer.text();
    expect([path, answer.status >= 400 && answer.status < 500]).toEqual([path, true]);
    expect(answer.headers.get('content-type')).toMatch(/^application\/problem\+json/);
    expect(text).not.toContain(folder);
    expect(text).not.toMatch(/ENOENT|node_modules|at \w+ \(/);
  }
});

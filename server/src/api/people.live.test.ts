import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { scryptSync } from 'node:crypto';
import { Secret, TOTP } from 'otpauth';
import type { InvitationMade, PeopleView, SignedIn, TokenMade } from '@vast-knot/core';
import { createTestApp } from '../fixtures/app';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { NoticeStream } from '../http/noticeStream';
import { makePerson } from '../people/people';

const password = 'four grey gulls on deck';
let database: TestDatabase;
let server: Server;
let url: string;
const stream = new NoticeStream();

beforeAll(async () => {
  database = await openTestDatabase();
  server = createServer(createTestApp(database, stream, { TRUST_PROXY: '1' }));
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
});
afterAll(async () => {
  stream.stop();
  server.closeAllConnections();
  await new Promise((done) => server.close(done));
  await database.close();
});

let addresses = 0;

/** A browser at an address of its own, or a program with a token. */
class Asker {
  cookie = '';
  readonly from = `192.0.2.${(addresses++ % 250) + 1}`;

  constructor(readonly token?: string) {}

  async ask<T = unknown>(method: string, path: string, body?: unknown, ifMatch?: number): Promise<Answer<T>> {
    const response = await fetch(url + path, {
      method,
      headers: {
        'x-forwarded-for': this.from,
        'user-agent': 'A browser of the harbour',
        ...(this.cookie !== '' && { cookie: this.cookie }),
        ...(this.token !== undefined && { authorization: `Bearer ${this.token}` }),
        ...(body !== undefined && { 'content-type': 'application/json' }),
        ...(ifMatch !== undefined && { 'if-match': `"${ifMatch}"` }),
      },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    });
    const cookie = response.headers.get('set-cookie')?.split(';')[0];
    if (cookie !== undefined) this.cookie = cookie;
    const text = await response.text();
    return {
      status: response.status,
      later: response.headers.get('retry-after'),
      body: (text === '' ? undefined : JSON.parse(text)) as T & { readonly detail: string },
    };
  }

  signIn(name: string, typed = password) {
    return this.ask<SignedIn>('POST', '/session', { name, password: typed });
  }
}

interface Answer<T> {
  readonly status: number;
  readonly later: string | null;
  readonly body: T & { readonly detail: string };
}

/** Makes somebody, and returns the browser that they are signed in with. */
async function somebody(name: string, role: string): Promise<Asker> {
  await makePerson(database.pool, { name, password, role, by: 'the test' });
  const browser = new Asker();
  expect((await browser.signIn(name)).status).toBe(200);
  return browser;
}

const codeAt = (secret: string, ahead = 0) =>
  new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + ahead * 30_000 });

/** Sets up codes. Returns the secret of the device. */
async function withCodes(browser: Asker): Promise<string> {
  const { body } = await browser.ask<{ secret: string }>('POST', '/session/second-factor', { password });
  expect((await browser.ask('PUT', '/session/second-factor', { code: codeAt(body.secret) })).status).toBe(
    200,
  );
  return body.secret;
}

test('whoever is invited joins by a link that works once, with what their role may', async () => {
  const mara = await somebody('mara', 'administrator');
  const invited = await mara.ask<InvitationMade>('POST', '/people/invitations', {
    name: 'jarl',
    role: 'editor',
  });
  expect([invited.status, invited.body.mailed]).toEqual([201, false]);
  const secret = new URL(invited.body.link).hash.slice(1);
  expect(JSON.stringify((await mara.ask('GET', '/people')).body)).not.toContain(secret);

  const jarl = new Asker();
  expect((await jarl.ask('POST', '/session/invitation', { secret })).body).toMatchObject({
    kind: 'join',
    name: 'jarl',
  });
  const weak = await jarl.ask('PUT', '/session/invitation', { secret, password: 'password1234' });
  expect([weak.status, weak.body.detail]).toEqual([422, expect.stringContaining('tried first')]);
  // Of two who use the link at the same time one joins.
  const joining = { secret, password, fullName: 'Jarl Holm' };
  const both = await Promise.all([1, 2].map(() => new Asker().ask('PUT', '/session/invitation', joining)));
  expect(both.map(({ status }) => status).sort()).toEqual([204, 404]);
  const signedIn = await jarl.signIn('jarl');
  expect(signedIn.body).toMatchObject({ fullName: 'Jarl Holm', role: { key: 'editor', name: 'Editor' } });
  expect(signedIn.body.rights).toContain('rules.edit');
  expect((await jarl.ask('GET', '/people')).status).toBe(403);
});

test('a link that is too old, or was withdrawn, leads nowhere', async () => {
  const una = await somebody('una', 'administrator');
  const { body: old } = await una.ask<InvitationMade>('POST', '/people/invitations', {
    name: 'late',
    role: 'viewer',
  });
  await database.pool.query(`UPDATE invitations SET ends_at = now() - interval '1 second' WHERE id = $1`, [
    old.id,
  ]);
  const use = ({ link }: InvitationMade) =>
    new Asker().ask('PUT', '/session/invitation', { secret: new URL(link).hash.slice(1), password });
  expect((await use(old)).status).toBe(404);
  const { body: next } = await una.ask<InvitationMade>('POST', '/people/invitations', {
    name: 'late',
    role: 'viewer',
  });
  expect((await una.ask('DELETE', `/people/invitations/${next.id}`)).status).toBe(204);
  expect((await use(next)).body.detail).toBe('This link was used, or is too old. Ask for another one.');
});

test('another password ends the sessions of other browsers, and a link for one ends all', async () => {
  const here = await somebody('ove', 'viewer');
  const there = new Asker();
  await there.signIn('ove');
  const wrong = await here.ask('PUT', '/session/password', {
    now: 'not it at all',
    next: 'six green buoys at noon',
  });
  expect([wrong.status, wrong.body.detail]).toEqual([422, 'This is not your password.']);
  const next = { now: password, next: 'six green buoys at noon' };
  expect((await here.ask('PUT', '/session/password', next)).status).toBe(204);
  expect([(await here.ask('GET', '/session')).status, (await there.ask('GET', '/session')).status]).toEqual([
    200, 401,
  ]);
  expect((await there.signIn('ove')).status).toBe(401);

  const admin = await somebody('admin-of-ove', 'administrator');
  const { body } = await admin.ask<InvitationMade>('POST', '/people/ove/password', {});
  const secret = new URL(body.link).hash.slice(1);
  expect((await new Asker().ask('PUT', '/session/invitation', { secret, password })).status).toBe(204);
  expect((await here.ask('GET', '/session')).status).toBe(401);
  expect((await here.signIn('ove')).status).toBe(200);
});

test('somebody is always left who looks after people, also when two take that from each other at once', async () => {
  await database.pool.query(`UPDATE people SET stopped_at = now() WHERE role = 'administrator'`);
  const [one, other] = [await somebody('edda', 'administrator'), await somebody('finn', 'administrator')];
  const both = await Promise.all([
    one.ask('PATCH', '/people/finn', { role: 'viewer' }),
    other.ask('PATCH', '/people/edda', { stopped: true }),
  ]);
  // Either came second and was one who may no more by then, or was told that nobody would be left.
  expect(both.filter(({ status }) => status === 200)).toHaveLength(1);
  const left = both[0]?.status === 200 ? one : other;
  const name = left === one ? 'edda' : 'finn';
  const alone = await left.ask('PATCH', `/people/${name}`, { stopped: true });
  expect([alone.status, alone.body.detail]).toEqual([
    409,
    'Nobody would be left who may invite people and give them roles.',
  ]);
  await database.pool.query(
    `UPDATE people SET stopped_at = NULL, role = 'administrator' WHERE name IN ('edda', 'finn', 'mara')`,
  );
});

test('with a second factor a password is half of signing in, and each code is taken once', async () => {
  const rurik = await somebody('rurik', 'viewer');
  const wrong = await rurik.ask<{ secret: string }>('POST', '/session/second-factor', { password });
  expect((await rurik.ask('PUT', '/session/second-factor', { code: '000000' })).status).toBe(422);
  expect(wrong.status).toBe(200);
  const secret = await withCodes(rurik);

  const browser = new Asker();
  expect((await browser.signIn('rurik')).body).toEqual({ wants: 'code' });
  expect((await browser.ask('GET', '/rules')).status).toBe(401);
  // The code with which the device was set up was used by that.
  expect((await browser.ask('POST', '/session/code', { code: codeAt(secret) })).status).toBe(401);
  const code = codeAt(secret, 1);
  const second = new Asker();
  await second.signIn('rurik');
  const both = await Promise.all(
    [browser, second].map((each) => each.ask('POST', '/session/code', { code })),
  );
  expect(both.map(({ status }) => status).sort()).toEqual([200, 401]);
  const entered = both[0]?.status === 200 ? browser : second;
  expect((await entered.ask('GET', '/rules')).status).toBe(200);
  // The secret stands nowhere as it is.
  const { rows } = await database.pool.query<{ code_secret: Buffer }>(
    `SELECT code_secret FROM people WHERE name = 'rurik'`,
  );
  expect(rows[0]?.code_secret.toString('latin1')).not.toContain(secret);
});

test('whoever has a role that wants a second factor can do nothing else before', async () => {
  const admin = await somebody('admin-of-roles', 'administrator');
  const said = {
    name: 'Night watch',
    says: 'Watches runs.',
    rights: ['runs.read', 'runs.stop'],
    secondFactor: true,
  };
  expect((await admin.ask('PUT', '/roles/night-watch', said, 0)).status).toBe(200);
  const sigga = await somebody('sigga', 'night-watch');
  const refused = await sigga.ask('GET', '/runs');
  expect([refused.status, refused.body.detail]).toEqual([403, expect.stringContaining('second factor')]);
  expect((await sigga.ask('GET', '/session')).body).toMatchObject({ mustHaveSecondFactor: true });
  await withCodes(sigga);
  expect((await sigga.ask('GET', '/runs')).status).toBe(200);
  expect((await sigga.ask('GET', '/rules')).status).toBe(403);
  expect((await sigga.ask('DELETE', '/session/second-factor', { password })).status).toBe(409);
});

test('a role of one’s own is changed by whoever saw it last, and is removed when nobody has it', async () => {
  const admin = await somebody('admin-of-own', 'administrator');
  const said = { name: 'Tables', says: '', rights: ['tables.read'], secondFactor: false };
  expect((await admin.ask('PUT', '/roles/tables', said, 0)).status).toBe(200);
  expect((await admin.ask('PUT', '/roles/tables', said, 0)).status).toBe(409);
  expect((await admin.ask('PUT', '/roles/tables', { ...said, rights: ['tables.change'] }, 1)).status).toBe(
    200,
  );
  expect((await admin.ask('PUT', '/roles/tables', said, 1)).status).toBe(412);
  const holder = await somebody('tove', 'tables');
  expect([
    (await holder.ask('GET', '/tables')).status,
    (await holder.ask('POST', '/tables', {})).status,
  ]).toEqual([403, 422]);
  const held = await admin.ask('DELETE', '/roles/tables');
  expect([held.status, held.body.detail]).toEqual([409, 'Give tove another role first.']);
  await admin.ask('PATCH', '/people/tove', { role: 'viewer' });
  expect((await admin.ask('DELETE', '/roles/tables')).status).toBe(200);
  expect((await admin.ask('PUT', '/roles/viewer', { ...said, name: 'Viewer' }, 1)).status).toBe(422);
});

test('nobody gives what they do not have, and nobody changes who may more', async () => {
  const admin = await somebody('admin-of-all', 'administrator');
  const rights = ['people.read', 'people.change', 'rules.read'];
  await admin.ask('PUT', '/roles/hosts', { name: 'Host', says: '', rights, secondFactor: false }, 0);
  const host = await somebody('hild', 'hosts');
  expect((await host.ask('POST', '/people/invitations', { name: 'x1', role: 'administrator' })).status).toBe(
    403,
  );
  expect((await host.ask('PATCH', '/people/hild', { role: 'administrator' })).status).toBe(403);
  expect((await host.ask('PATCH', '/people/admin-of-all', { stopped: true })).status).toBe(403);
  expect((await host.ask('POST', '/people/admin-of-all/password', {})).status).toBe(403);
  const more = { name: 'Host', says: '', rights: [...rights, 'systems.change'], secondFactor: false };
  expect((await host.ask('PUT', '/roles/hosts', more, 1)).status).toBe(403);
  expect((await host.ask('POST', '/people/invitations', { name: 'x2', role: 'hosts' })).status).toBe(201);
});

test('a program with a token may what was chosen for it, of what its person may by then', async () => {
  const browser = await somebody('tora', 'publisher');
  const beyond = await browser.ask('POST', '/session/tokens', {
    name: 'all',
    rights: ['people.change'],
    days: 7,
  });
  expect([beyond.status, beyond.body.detail]).toEqual([403, 'A token may do what you may, and no more.']);
  const chosen = { name: 'nightly', rights: ['rules.read', 'rules.publish'], days: 7 };
  const { status, body } = await browser.ask<TokenMade>('POST', '/session/tokens', chosen);
  expect([status, body.token]).toEqual([201, expect.stringMatching(/^vkt_[\w-]{43}$/)]);
  const program = new Asker(body.token);
  expect([(await program.ask('GET', '/rules')).status, (await program.ask('GET', '/tables')).status]).toEqual(
    [200, 403],
  );
  // A token makes no tokens, and no sessions.
  expect((await program.ask('GET', '/session/tokens')).status).toBe(403);
  expect(program.cookie).toBe('');
  const { rows } = await database.pool.query<{ hash: Buffer; used_from: string }>(
    'SELECT hash, used_from FROM tokens WHERE id = $1',
    [body.id],
  );
  expect([rows[0]?.hash.length, rows[0]?.used_from]).toEqual([32, program.from]);

  await database.pool.query(`UPDATE people SET role = 'viewer' WHERE name = 'tora'`);
  expect((await program.ask('PUT', '/rules/order', {})).status).toBe(403);
  await database.pool.query(`UPDATE tokens SET ends_at = now() - interval '1 second' WHERE id = $1`, [
    body.id,
  ]);
  const ended = await program.ask('GET', '/rules');
  expect([ended.status, ended.body.detail]).toEqual([401, 'This token has ended, or never was one.']);
  expect((await browser.ask('DELETE', `/session/tokens/${body.id}`)).status).toBe(204);
});

test('whoever guesses is kept out for a while, and keeps out nobody who asks from elsewhere', async () => {
  const there = await somebody('gaut', 'viewer');
  const guesser = new Asker();
  const answers = [];
  for (let at = 0; at < 12; at++) answers.push(await guesser.signIn('gaut', `guess number ${at}`));
  expect(answers.map(({ status }) => status)).toEqual([...Array<number>(10).fill(401), 429, 429]);
  expect(Number(answers[11]?.later)).toBeGreaterThan(600);
  // What was right is not let in either, from there; and is, from elsewhere.
  expect((await guesser.signIn('gaut')).status).toBe(429);
  expect((await new Asker().signIn('gaut')).status).toBe(200);
  expect((await there.ask('GET', '/session')).status).toBe(200);
  // A hundred at once are counted as well as one after the other.
  const crowd = new Asker();
  const many = await Promise.all(
    Array.from({ length: 30 }, (_each, at) => crowd.signIn('gaut', `crowd ${at}`)),
  );
  expect(many.filter(({ status }) => status === 401)).toHaveLength(10);
});

test('somebody sees where they are signed in, and ends what is not theirs', async () => {
  const here = await somebody('ylva', 'viewer');
  const there = new Asker();
  await there.signIn('ylva');
  const { body } = await here.ask<{ id: string; here: boolean; from: string; agent: string }[]>(
    'GET',
    '/session/sessions',
  );
  expect(body.map(({ here: own, from, agent }) => [own, from, agent])).toEqual(
    expect.arrayContaining([
      [true, here.from, 'A browser of the harbour'],
      [false, there.from, 'A browser of the harbour'],
    ]),
  );
  const other = body.find(({ here: own }) => !own);
  expect((await here.ask('DELETE', `/session/sessions/${other?.id ?? ''}`)).status).toBe(204);
  expect((await there.ask('GET', '/session')).status).toBe(401);
  expect((await here.ask('DELETE', '/session/sessions/nothing')).status).toBe(404);
});

test('what somebody listens to ends when they may no longer', async () => {
  const admin = await somebody('admin-of-stream', 'administrator');
  const listener = await somebody('leif', 'viewer');
  const response = await fetch(`${url}/stream`, { headers: { cookie: listener.cookie } });
  expect(response.status).toBe(200);
  // In a server the notice comes by the database to every process.
  const told = database.pool.connect().then(async (client) => {
    client.on('notification', ({ payload }) => {
      stream.broadcast(JSON.parse(payload ?? '{}') as Parameters<typeof stream.broadcast>[0]);
    });
    await client.query('LISTEN vast_knot');
    return client;
  });
  const client = await told;
  expect((await admin.ask<PeopleView>('PATCH', '/people/leif', { stopped: true })).status).toBe(200);
  expect(await response.text()).toContain('retry: 1000');
  await client.query('UNLISTEN *');
  client.release(true);
});

test('a password of an earlier version signs in, and is kept as those of now from then on', async () => {
  const salt = Buffer.from('0123456789abcdef');
  const kept = `${salt.toString('base64')}:${scryptSync('harbour-light-9', salt, 32).toString('base64')}`;
  await database.pool.query(`INSERT INTO people (name, password_hash, role) VALUES ('gerd', $1, 'viewer')`, [
    kept,
  ]);
  expect((await new Asker().signIn('gerd', 'harbour-light-9')).status).toBe(200);
  const { rows } = await database.pool.query<{ hash: string }>(
    `SELECT password_hash AS hash FROM people WHERE name = 'gerd'`,
  );
  expect(rows[0]?.hash).toMatch(/^\$argon2id\$/);
  expect((await new Asker().signIn('gerd', 'harbour-light-9')).status).toBe(200);
});

test('the environment has a name and a colour, changed by whoever saw them last', async () => {
  const admin = await somebody('admin-of-name', 'administrator');
  const trial = { name: 'Trial', colour: 'moss', secondPerson: false };
  expect((await admin.ask('PUT', '/environment', trial, 1)).body).toEqual({ ...trial, revision: 2 });
  expect((await admin.ask('PUT', '/environment', trial, 1)).status).toBe(412);
  expect((await admin.ask('PUT', '/environment', { ...trial, colour: 'mauve' }, 2)).status).toBe(422);
  expect((await admin.ask('GET', '/session')).body).toMatchObject({ environment: trial });
});

test('a page of another origin neither signs anybody in nor out', async () => {
  const response = await fetch(`${url}/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: 'https://elsewhere.example' },
    body: JSON.stringify({ name: 'mara', password }),
  });
  expect(response.status).toBe(403);
});

test('whoever asks for too much is asked to come later, and others are not', async () => {
  const notices = new NoticeStream();
  const bounded = createServer(
    createTestApp(database, notices, { REQUESTS_PER_MINUTE: '8', COSTLY_PER_MINUTE: '2', TRUST_PROXY: '1' }),
  );
  await new Promise<void>((done) => bounded.listen(0, '127.0.0.1', done));
  const [one, other] = [await somebody('many', 'viewer'), await somebody('few', 'viewer')];
  const ask = (browser: Asker, path: string) =>
    fetch(`http://127.0.0.1:${(bounded.address() as AddressInfo).port}/api${path}`, {
      headers: { cookie: browser.cookie, 'x-forwarded-for': browser.from },
    });
  const statuses = async (browser: Asker, path: string, times: number) => {
    const answers = [];
    for (let at = 0; at < times; at++) answers.push(await ask(browser, path));
    return answers.map(({ status }) => status);
  };
  expect(await statuses(one, '/values?text=salt', 3)).toEqual([200, 200, 429]);
  expect(await statuses(one, '/rules', 6)).toEqual([200, 200, 200, 200, 200, 429]);
  expect(await statuses(other, '/values?text=salt', 1)).toEqual([200]);
  const refused = await ask(one, '/rules');
  expect([refused.headers.get('retry-after'), await refused.json()]).toEqual([
    '60',
    expect.objectContaining({ title: 'Too many requests', status: 429 }),
  ]);
  // What costs is counted by all processes together.
  const second = createServer(createTestApp(database, notices, { COSTLY_PER_MINUTE: '2', TRUST_PROXY: '1' }));
  await new Promise<void>((done) => second.listen(0, '127.0.0.1', done));
  const elsewhere = await fetch(
    `http://127.0.0.1:${(second.address() as AddressInfo).port}/api/values?text=salt`,
    { headers: { cookie: one.cookie, 'x-forwarded-for': one.from } },
  );
  expect(elsewhere.status).toBe(429);
  expect(Number(elsewhere.headers.get('retry-after'))).toBeGreaterThan(0);
  notices.stop();
  for (const each of [bounded, second]) {
    each.closeAllConnections();
    await new Promise((done) => each.close(done));
  }
});

import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';
import { Webhook } from 'standardwebhooks';
import { Agent } from 'undici';
import type { TellingSettings } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent, openHarbour } from '../fixtures/harbour';
import { openReceiver } from '../fixtures/receiver';
import { accept } from '../inbox/inbox';
import { keepTelling, viewTelling } from './settings';
import { tellPeople, tellTest } from './tell';

const secret = `whsec_${Buffer.from('a secret of the harbour, 32 bytes').toString('base64')}`;
let database: TestDatabase;
let receiver: Awaited<ReturnType<typeof openReceiver>>;
let host: string;
const received: { things: { what: string; link: string }[]; count: number }[] = [];
let post: SMTPServer;
let mailUrl: string;
const mails: { to: readonly string[]; text: string }[] = [];
let mailTaken = true;

beforeAll(async () => {
  database = await openTestDatabase();
  receiver = await openReceiver(({ headers, body }) => {
    // Whoever is told can know that it is us (Standard Webhooks, "Verifying webhook authenticity").
    new Webhook(secret).verify(body, headers as Record<string, string>);
    received.push((JSON.parse(body) as { data: (typeof received)[number] }).data);
    return { status: 202 };
  });
  host = receiver.host;
  post = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    logger: false,
    onRcptTo: (_address, _session, done) =>
      mailTaken ? done() : done(Object.assign(new Error('The post is closed.'), { responseCode: 450 })),
    onData: (stream, { envelope }, done) => {
      let text = '';
      stream.on('data', (chunk: Buffer) => (text += chunk.toString()));
      stream.on('end', () => {
        mails.push({ to: envelope.rcptTo.map(({ address }) => address), text });
        done();
      });
    },
  });
  await new Promise<void>((done) => void post.listen(0, '127.0.0.1', done));
  mailUrl = `smtp://127.0.0.1:${(post.server.address() as AddressInfo).port}`;
});
afterAll(async () => {
  await new Promise<void>((done) => post.close(done));
  await receiver.close();
  await database.close();
});
beforeEach(async () => {
  await database.pool.query('TRUNCATE inbox, runs, systems, alerts, told, telling, put_aside CASCADE');
  received.splice(0);
  mails.splice(0);
  mailTaken = true;
});

const telling = () => {
  const { registry } = openHarbour(database.pool);
  const endpoint = { key: 'office', name: 'Office', url: `http://${host}/in`, secret, former: undefined };
  return {
    pool: database.pool,
    registry: { ...registry, endpoints: new Map([['office', endpoint]]) },
    dispatcher: new Agent(),
    allowedOutbound: [host],
    mail: { url: mailUrl, from: 'Vast Knot <knot@harbour.example>' },
    publicUrl: 'https://knot.harbour.example',
    now: new Date(),
  };
};

const told = (settings: Partial<TellingSettings>) =>
  keepTelling(
    database.pool,
    {
      address: 'office',
      mail: ['mara@harbour.example'],
      kinds: ['failure', 'away', 'given up', 'drift'],
      quiet: null,
      ...settings,
    },
    'ines',
  );

async function fail(because: string) {
  const { claimed, ...event } = companyEvent({ id: 'C1' });
  const id = await accept(database.pool, { ...event, claimed });
  await database.pool.query(
    `UPDATE inbox SET state = 'failed', result = 'failed', trouble = true, because = $2 WHERE id = $1`,
    [id, because],
  );
}

test('whoever is chosen is told of a cause of failures once, by address and by mail, with where it is seen', async () => {
  await fail('This was before anybody was told.');
  await told({});
  await tellPeople(telling());
  expect([received, mails]).toEqual([[], []]);
  await fail('The number B-17 is not known.');
  await fail('The number B-18 is not known.');
  await tellPeople(telling());
  const what = '2 runs failed: The number B-18 is not known.';
  expect(received).toMatchObject([
    { count: 1, things: [{ what, link: 'https://knot.harbour.example/failures' }] },
  ]);
  expect(mails).toHaveLength(1);
  expect(mails[0]?.to).toEqual(['mara@harbour.example']);
  expect(mails[0]?.text).toContain(`Subject: Vast Knot: ${what}`);
  expect(mails[0]?.text).toContain('https://knot.harbour.example/failures');
  // It goes on failing: that is told already.
  await fail('The number B-19 is not known.');
  await tellPeople(telling());
  expect([received.length, mails.length]).toEqual([1, 1]);
});

test('what was put aside, and what nobody wants to hear of, is not told', async () => {
  await told({ kinds: ['away'] });
  await fail('It is closed.');
  await tellPeople(telling());
  await told({});
  await fail('It is open.');
  await database.pool.query(
    `INSERT INTO put_aside (cause, note, by) VALUES ('It is open.', 'known', 'ines')`,
  );
  await tellPeople(telling());
  expect(received).toEqual([]);
});

test('a system that is away is told of after two minutes; what happens in quiet hours is told afterwards, in one message', async () => {
  const { pool } = database;
  await pool.query(
    `INSERT INTO systems (key, position, definition, connection) VALUES ('desk', 1, '{"name": "Desk"}', '{}') ON CONFLICT DO NOTHING`,
  );
  const clock = (hours: number) => new Date(Date.now() + hours * 3_600_000).toISOString().slice(11, 16);
  await told({ quiet: { from: clock(-1), to: clock(1), zone: 'UTC' } });
  const stands = (since: string) =>
    pool.query(
      `INSERT INTO system_states (system, standing, since, because) VALUES ('desk', 'away', now() - $1::interval, 'does not answer.')
       ON CONFLICT (system) DO UPDATE SET since = EXCLUDED.since`,
      [since],
    );
  await stands('1 minute');
  await tellPeople(telling());
  expect((await viewTelling(pool, true)).waiting).toBe(0);
  await stands('3 minutes');
  await fail('It is closed.');
  await tellPeople(telling());
  expect((await viewTelling(pool, true)).waiting).toBe(2);
  expect([received, mails]).toEqual([[], []]);
  await told({ quiet: { from: clock(2), to: clock(3), zone: 'UTC' } });
  await tellPeople(telling());
  expect(received.map(({ count }) => count)).toEqual([2]);
  expect(received[0]?.things.map(({ what }) => what).sort()).toEqual([
    'A run failed: It is closed.',
    'Desk does not answer. What is for it waits.',
  ]);
  expect(mails.map(({ text }) => /Subject: (.*)/.exec(text)?.[1])).toEqual([
    'Vast Knot: 2 things need a person',
  ]);
});

test('what one way does not take is told by it later, and why stands there; the other way is not told twice', async () => {
  await told({});
  await fail('It is closed.');
  mailTaken = false;
  await tellPeople(telling());
  expect([received.length, mails.length]).toEqual([1, 0]);
  const view = await viewTelling(database.pool, true);
  expect(view.waiting).toBe(1);
  expect(view.told.find(({ way }) => way === 'mail')?.problem).toContain('The post is closed.');
  mailTaken = true;
  await tellPeople(telling());
  expect([received.length, mails.length]).toEqual([1, 1]);
});

test('a test is sent to whoever is chosen, and says what is missing where nobody is', async () => {
  expect(await tellTest(telling(), 'address')).toBe('No outside address is chosen.');
  await told({ mail: [] });
  expect(await tellTest(telling(), 'mail')).toBe('Nobody is named.');
  expect(await tellTest({ ...telling(), mail: undefined }, 'mail')).toBe(
    'No mail server is set up (SMTP_URL).',
  );
  expect(await tellTest(telling(), 'address')).toBeNull();
  expect(received[0]?.things[0]?.what).toBe('This is only a test.');
});

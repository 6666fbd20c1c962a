import { Webhook } from 'standardwebhooks';
import { Agent } from 'undici';
import { workbookOf, type PlannedMessage } from '@vast-knot/core';
import { openTestDatabase, type TestDatabase } from '../fixtures/database';
import { companyEvent, companyRef, openHarbour } from '../fixtures/harbour';
import { openReceiver, type ReceivedPost } from '../fixtures/receiver';
import { accept } from '../inbox/inbox';
import { beginRuns } from '../runs/repository';
import { pauseEverything } from '../systems/installation';
import { deliverMessage } from './deliver';
import { listMessages, readMessageDetail, resendMessage, sendEdited } from './log';
import { storeMessages } from './repository';

const secret = `whsec_${Buffer.from('a secret of the harbour, 32 bytes').toString('base64')}`;
let database: TestDatabase;
let receiver: Awaited<ReturnType<typeof openReceiver>>;
let host: string;
let status = 202;
const received: ReceivedPost[] = [];

beforeAll(async () => {
  database = await openTestDatabase();
  receiver = await openReceiver((post) => {
    received.push(post);
    return { status, answer: status === 202 ? 'thanks' : 'not now' };
  });
  host = receiver.host;
});
afterAll(async () => {
  await receiver.close();
  await database.close();
});
beforeEach(() => {
  received.splice(0);
  status = 202;
});

const rule = { id: '00000000-0000-7000-8000-000000000001', name: 'Tells', version: 4 };
const message = (number: number, about = 'M1'): PlannedMessage => ({
  id: `m${number}`,
  endpoint: 'post',
  type: 'company.changed',
  ref: companyRef(about),
  data: { number },
  rule,
});

async function stored(planned: readonly PlannedMessage[], created = new Map<string, string>()) {
  const { pool } = database;
  const { claimed, ...told } = companyEvent({ id: 'M1' });
  const runId = (await accept(pool, { ...told, claimed })) ?? '';
  await beginRuns(pool, [{ id: runId, event: { ...told, changed: [] } }]);
  const store = () => storeMessages(pool, { runId, time: told.time, planned, created });
  await store();
  return { runId, store, ids: (await listMessages(pool, { run: runId }, 10)).map(({ id }) => id).reverse() };
}

const deliver = (
  id: string,
  allowed = [host],
  now = () => new Date(),
  former?: { readonly secret: string; readonly until: Date },
) => {
  const { registry } = openHarbour(database.pool);
  const endpoint = { key: 'post', name: 'Post', url: `http://${host}/in`, secret, former };
  return deliverMessage(id, {
    pool: database.pool,
    registry: { ...registry, endpoints: new Map([['post', endpoint]]) },
    dispatcher: new Agent(),
    allowedOutbound: allowed,
    outFolders: {},
    tools: { workbook: workbookOf },
    now,
  });
};

test('a message is signed, delivered once, and what was answered is kept', async () => {
  const { ids } = await stored([message(1)]);
  const [id = ''] = ids;
  await deliver(id);
  await deliver(id);
  expect(received).toHaveLength(1);
  const [{ headers, body } = { headers: {}, body: '' }] = received;
  const signed = Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, String(value)]));
  // Standard Webhooks: the receiver's own library accepts it.
  expect(new Webhook(secret).verify(body, signed)).toMatchObject({
    specversion: '1.0',
    id,
    type: 'company.changed',
    subject: 'M1',
    data: { number: 1 },
  });
  expect(await readMessageDetail(database.pool, id)).toMatchObject({
    state: 'delivered',
    tries: [{ status: 202, answer: 'thanks', problem: null }],
  });
});

test('after a change of the secret the old one and the new one both sign, until the old one ends', async () => {
  const old = `whsec_${Buffer.from('the secret before it, 32 bytes..').toString('base64')}`;
  const signed = (at: number) =>
    Object.fromEntries(
      Object.entries(received[at]?.headers ?? {}).map(([name, value]) => [name, String(value)]),
    );
  const { ids } = await stored([message(1, 'M7'), message(2, 'M7')]);
  const until = new Date(Date.now() + 60_000);
  await deliver(ids[0] ?? '', [host], () => new Date(), { secret: old, until });
  // A receiver that knows either of them accepts it (Standard Webhooks; its own library).
  for (const each of [old, secret]) new Webhook(each).verify(received[0]?.body ?? '', signed(0));
  await deliver(ids[1] ?? '', [host], () => new Date(), { secret: old, until: new Date(Date.now() - 1) });
  new Webhook(secret).verify(received[1]?.body ?? '', signed(1));
  expect(() => new Webhook(old).verify(received[1]?.body ?? '', signed(1))).toThrow();
});

test('messages of a run that ends twice are stored once, with the rule that sent them', async () => {
  const { runId, store, ids } = await stored([message(1), message(2)]);
  await store();
  expect(await listMessages(database.pool, { run: runId }, 10)).toHaveLength(2);
  const { rows } = await database.pool.query(
    'SELECT rule, rule_id, rule_version FROM messages WHERE id = $1',
    [ids[0]],
  );
  expect(rows).toEqual([{ rule: 'Tells', rule_id: rule.id, rule_version: 4 }]);
});

test('about one record the later message waits for the earlier one', async () => {
  const { ids } = await stored([message(1, 'M2'), message(2, 'M2')]);
  const [first = '', second = ''] = ids;
  await deliver(second);
  expect(received).toEqual([]);
  status = 503;
  await deliver(first);
  await deliver(second);
  expect(received).toHaveLength(1);
  expect(await readMessageDetail(database.pool, first)).toMatchObject({
    state: 'waiting',
    attempts: 1,
    last: 'The receiver answered 503.',
  });
  status = 202;
  await deliver(first);
  await deliver(second);
  expect(received.map(({ body }) => (JSON.parse(body) as { data: unknown }).data)).toEqual([
    { number: 1 },
    { number: 1 },
    { number: 2 },
  ]);
});

test('the wait before the next try doubles, up to four hours', async () => {
  const [id = ''] = (await stored([message(1, 'M9')])).ids;
  status = 500;
  const at = new Date();
  const waits: number[] = [];
  for (let attempt = 1; attempt <= 17; attempt++) {
    await deliver(id, [host], () => at);
    const { rows } = await database.pool.query<{ next: Date }>(
      'SELECT next_at AS next FROM messages WHERE id = $1',
      [id],
    );
    waits.push(((rows[0]?.next.getTime() ?? 0) - at.getTime()) / 1000);
  }
  status = 202;
  expect(waits.slice(0, 4)).toEqual([1, 2, 4, 8]);
  expect(waits.slice(-4)).toEqual([8192, 14_400, 14_400, 14_400]);
});

test('ids that stood for created records are those that their systems gave', async () => {
  const { runId } = await stored(
    [{ ...message(1, 'new-1'), data: { task: 'new-2' } }],
    new Map([
      ['new-1', 'C-77'],
      ['new-2', 'T-88'],
    ]),
  );
  const { rows } = await database.pool.query<{ body: { subject: string; data: unknown } }>(
    'SELECT body FROM messages WHERE run_id = $1',
    [runId],
  );
  expect(rows[0]?.body).toMatchObject({ subject: 'C-77', data: { task: 'T-88' } });
});

test('an address inside this network is not sent to unless it was allowed', async () => {
  const { ids } = await stored([message(1, 'M3')]);
  await deliver(ids[0] ?? '', []);
  expect(received).toEqual([]);
  expect((await readMessageDetail(database.pool, ids[0] ?? ''))?.last).toMatch(/127\.0\.0\.1/);
});

test('a message that was delivered can be sent again, and one that is not there cannot', async () => {
  const { ids } = await stored([message(1, 'M4')]);
  const [id = ''] = ids;
  await deliver(id);
  expect(await resendMessage(database.pool, id)).toBe(true);
  await deliver(id);
  expect(received).toHaveLength(2);
  expect(await resendMessage(database.pool, '00000000-0000-7000-8000-00000000dead')).toBe(false);
});

test('a message that somebody edits is sent as one of its own, and says who edited which', async () => {
  const { ids } = await stored([message(90, 'M90')]);
  const [first = ''] = ids;
  await deliver(first);
  const edited = await sendEdited(database.pool, first, { data: { number: 91 }, by: 'mara' });
  await deliver(edited ?? '');
  expect(received.map(({ body }) => (JSON.parse(body) as { data: unknown }).data)).toEqual([
    { number: 90 },
    { number: 91 },
  ]);
  // A receiver that knows the first by its id takes this one as another.
  expect(received.map(({ headers }) => headers['webhook-id'])).toEqual([first, edited]);
  expect(await readMessageDetail(database.pool, edited ?? '')).toMatchObject({
    state: 'delivered',
    edited: { by: 'mara', from: first },
    body: { id: edited, subject: 'M90', data: { number: 91 } },
  });
  expect(await readMessageDetail(database.pool, first)).toMatchObject({ edited: null });
  const nobody = '00000000-0000-7000-8000-000000000000';
  expect(await sendEdited(database.pool, nobody, { data: {}, by: 'mara' })).toBeUndefined();
});

test('while everything is paused nothing is delivered; it waits, and goes once it goes on', async () => {
  const { ids } = await stored([message(95, 'M95')]);
  const [id = ''] = ids;
  await pauseEverything(database.pool, 'mara');
  await deliver(id);
  expect(received).toEqual([]);
  expect(await readMessageDetail(database.pool, id)).toMatchObject({ state: 'waiting', attempts: 0 });
  await pauseEverything(database.pool, null);
  await deliver(id);
  expect(received).toHaveLength(1);
});

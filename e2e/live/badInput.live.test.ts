import { randomUUID } from 'node:crypto';
import { World } from './harness';

jest.setTimeout(60_000);
let world: World;
beforeAll(async () => {
  world = await World.start({ BODY_LIMIT: '20000' });
});
afterAll(() => world.stop());

const structured = { 'content-type': 'application/cloudevents+json' };
const event = (more: Record<string, unknown> = {}) => ({
  specversion: '1.0',
  id: randomUUID(),
  source: '/customer-book',
  type: 'customer-book.company.updated',
  subject: 'C-1003',
  time: '2026-03-09T09:00:00Z',
  data: { record: { id: 'C-1003', name: 'X', status: 'active' } },
  ...more,
});

describe('a message that cannot be taken is answered with the reason, and kept', () => {
  test.each([
    [
      'unsigned',
      'customer-book',
      JSON.stringify(event()),
      false,
      401,
      'refused',
      /^The signature is missing/,
    ],
    ['not JSON', 'customer-book', '{"specversion":', true, 400, 'malformed', /^The body is not JSON/],
    [
      'no envelope',
      'customer-book',
      '{"hello":1}',
      true,
      400,
      'malformed',
      /envelope is wrong: "specversion" is required/,
    ],
    [
      'an unknown type',
      'customer-book',
      JSON.stringify(event({ type: 'weather' })),
      true,
      400,
      'malformed',
      /“weather” means nothing/,
    ],
    [
      'no record',
      'customer-book',
      JSON.stringify(event({ data: {} })),
      true,
      400,
      'malformed',
      /has no record at \/record/,
    ],
    [
      'another record',
      'customer-book',
      JSON.stringify(event({ subject: 'C-9' })),
      true,
      400,
      'malformed',
      /is about C-9, and its record is C-1003/,
    ],
    [
      'an unknown system',
      'harbour-bell',
      JSON.stringify(event()),
      true,
      404,
      'refused',
      /no system “harbour-bell”/,
    ],
    [
      'half a surrogate pair',
      'customer-book',
      JSON.stringify(event({ data: { record: { id: 'C-1003', name: 'X\ud800' } } })),
      true,
      400,
      'malformed',
      /holds half of a surrogate pair in name/,
    ],
    [
      'a NUL character',
      'customer-book',
      JSON.stringify(event({ data: { record: { id: 'C-1003', name: 'X\0' } } })),
      true,
      400,
      'malformed',
      /holds a NUL character in name/,
    ],
    [
      'nested too deep',
      'customer-book',
      `{"data":${'['.repeat(5000)}${']'.repeat(5000)}}`,
      true,
      400,
      'malformed',
      /nested 200 deep/,
    ],
    [
      'from the future',
      'customer-book',
      JSON.stringify(event({ time: '2099-01-01T00:00:00Z' })),
      true,
      400,
      'malformed',
      /more than a day from now/,
    ],
    [
      'too large',
      'customer-book',
      JSON.stringify(event({ data: 'x'.repeat(30_000) })),
      true,
      413,
      'refused',
      /more than 20000 bytes/,
    ],
  ])('%s', async (_name, system, body, sign, status, state, because) => {
    const answer = await world.hook(system, body, structured, sign);
    expect(answer.status).toBe(status);
    expect(answer.body).toMatchObject({
      type: 'about:blank',
      status,
      detail: expect.stringMatching(because) as string,
    });
    const [kept] = await world.runs(`state=${state}`);
    expect(kept?.because).toMatch(because);
    expect(kept?.system).toBe(system);
    if (status !== 413) expect((await world.run(kept?.id ?? '')).body).toBe(body);
  });

  test('a wrong signature', async () => {
    const answer = await world.hook(
      'customer-book',
      JSON.stringify(event()),
      {
        ...structured,
        'webhook-id': 'x',
        'webhook-timestamp': String(Math.floor(Date.now() / 1000)),
        'webhook-signature': 'v1,AAAA',
      },
      false,
    );
    expect(answer).toMatchObject({
      status: 401,
      body: { detail: expect.stringMatching(/^The signature is wrong/) as string },
    });
  });
});

test('a byte order mark before the body is no mistake', async () => {
  const answer = await world.hook('customer-book', `\ufeff${JSON.stringify(event())}`, structured);
  expect(answer).toMatchObject({ status: 202, body: { taken: true } });
});

test('a stranger’s flood is answered, fills no list, and keeps nobody else out', async () => {
  const count = async () =>
    (await world.database.query('SELECT 1 FROM inbox WHERE system = $1', ['fleet-log'])).rowCount;
  const statuses: number[] = [];
  for (let at = 0; at < 320; at++)
    statuses.push((await world.hook('fleet-log', '{}', structured, false)).status);
  expect(statuses.filter((status) => status === 401)).toHaveLength(300);
  expect(statuses.at(-1)).toBe(429);
  expect(await count()).toBe(30);
  const signed = event({
    source: '/fleet-log',
    type: 'log.updated.vessel',
    subject: 'SL-01',
    data: { data: { CODE: 'SL-01' } },
  });
  expect((await world.hook('fleet-log', JSON.stringify(signed), structured)).status).toBe(400);
});

test('an event that comes twice is taken once', async () => {
  const body = JSON.stringify(event());
  expect(await world.hook('customer-book', body, structured)).toMatchObject({
    status: 202,
    body: { taken: true },
  });
  expect(await world.hook('customer-book', body, structured)).toMatchObject({
    status: 202,
    body: { taken: false },
  });
});

describe('our own API', () => {
  const routes = [
    '/systems',
    '/tables',
    '/rules',
    '/samples',
    '/runs',
    '/runs/1',
    '/stream',
    '/records/customer-book/company',
  ];

  test.each(routes)('%s is for people who are signed in', async (path) => {
    expect((await world.api('GET', path, undefined, { cookie: '' })).status).toBe(401);
  });

  test('a reader may look and not change', async () => {
    await world.signIn('reader');
    expect((await world.api('GET', '/rules')).status).toBe(200);
    const answer = await world.api('PATCH', '/records/customer-book/company/C-1001', { set: { phone: '1' } });
    expect(answer).toMatchObject({
      status: 403,
      body: { detail: 'reader may not change and remove records.' },
    });
    await world.signIn('admin');
  });

  test('pages of other origins change nothing', async () => {
    const answer = await world.api(
      'POST',
      '/samples',
      { run: '1', name: 'x' },
      { origin: 'http://elsewhere.example' },
    );
    expect(answer.status).toBe(403);
  });

  test('secrets stay on the server', async () => {
    const { body } = await world.api<unknown>('GET', '/systems');
    const text = JSON.stringify(body);
    expect(text).not.toMatch(/whsec_|token|Bearer/);
    const { rows } = await world.database.query<{ sealed: Buffer }>('SELECT sealed FROM secrets');
    // Five systems with a token and a signing secret each, the inlet, which only signs, and the database, which tells nothing.
    expect(rows).toHaveLength(2 * 5 + 1 + 1);
    expect(rows.some(({ sealed }) => sealed.toString('latin1').includes('whsec_'))).toBe(false);
  });

  test('a rule with mistakes is kept as a draft and not published; each mistake has its place', async () => {
    const [rule] = (await world.api<{ id: string; draft: object; revision: number }[]>('GET', '/rules')).body;
    const broken = { ...rule?.draft, guard: 'UPER(phone' };
    const saved = await world.api<{ revision: number }>('PUT', `/rules/${rule?.id}/draft`, broken, {
      'if-match': `"${rule?.revision}"`,
    });
    expect(saved.status).toBe(200);
    const answer = await world.api('POST', `/rules/${rule?.id}/publish`, undefined, {
      'if-match': `"${saved.body.revision}"`,
    });
    expect(answer).toMatchObject({
      status: 422,
      body: { errors: [{ at: 'guard', message: 'A “)” or a comma is missing.' }] },
    });
  });

  test('a draft that somebody else has changed is not overwritten', async () => {
    const [, rule] = (await world.api<{ id: string; draft: object; revision: number }[]>('GET', '/rules'))
      .body;
    const put = () =>
      world.api('PUT', `/rules/${rule?.id}/draft`, rule?.draft, { 'if-match': `"${rule?.revision}"` });
    expect((await put()).status).toBe(200);
    expect(await put()).toMatchObject({ status: 412, body: { title: 'Changed in between' } });
  });

  test('unknown members and paths are refused by name', async () => {
    const answer = await world.api('POST', '/rules', { name: 'x', colour: 'red' });
    expect(answer).toMatchObject({ status: 422 });
    expect(JSON.stringify(answer.body)).toContain('colour');
    expect(
      (await world.api('PATCH', '/records/customer-book/company/C-1001', { set: { colour: 'red' } })).body,
    ).toMatchObject({
      detail: 'There is no field “colour”.',
    });
  });
});

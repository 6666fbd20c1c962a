import type { SystemHealth } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(120_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

const healthOf = async (system: string) =>
  (await world.api<SystemHealth[]>('GET', '/systems/health')).body.find((each) => each.system === system);
const phonesOf = async (party: string) =>
  new Set(
    (await world.bookingsOf(party))
      .filter(({ status }) => status === 'open' || status === 'confirmed')
      .map(({ contactPhone }) => contactPhone),
  );

test('every system is connected, and its records are learnt', async () => {
  expect(await healthOf('freight-desk')).toMatchObject({
    standing: 'answers',
    subscribed: true,
    caughtUpAt: expect.any(String) as string,
    waiting: 0,
  });
  expect(await healthOf('inlets')).toMatchObject({ subscribed: null });
});

test('what is for a system that is away waits, is no failed try, and goes on in order when it answers', async () => {
  await world.ask('freight-desk', 'PUT', '/dials', { outage: true });
  for (const [at, company] of ['C-1001', 'C-1002', 'C-1003', 'C-1004'].entries())
    await world.changeCompany(company, { phone: `01632 960 60${at}` });
  const away = await until('the breaker', async () => {
    const health = await healthOf('freight-desk');
    return health?.standing === 'away' && health.waiting >= 1 && health;
  });
  expect(away.because).toMatch(/^does not answer/);
  expect(away.nextTry).not.toBeNull();
  // The same record once more: it waits behind the first.
  await world.changeCompany('C-1001', { phone: '01632 960 610' });
  await world.ask('freight-desk', 'PUT', '/dials', { outage: false });
  await until('the phone', async () => (await phonesOf('401001')).has('+441632960610'));
  expect(await phonesOf('401001')).toEqual(new Set(['+441632960610']));
  const waited = await world.runs('search=C-1004');
  await until('the last one', async () => (await world.runs('state=waiting')).length === 0);
  expect(waited[0]?.attempts).toBeLessThan(4);
  await until('an answer', async () => (await healthOf('freight-desk'))?.standing === 'answers');
});

test('somebody may try a system that is away at once, and what waits for it goes on', async () => {
  await world.ask('freight-desk', 'PUT', '/dials', { outage: true });
  for (const company of ['C-1011', 'C-1012', 'C-1013', 'C-1014'])
    await world.changeCompany(company, { phone: '01632 960 611' });
  await until('the breaker', async () => (await healthOf('freight-desk'))?.standing === 'away');
  type Tried = { readonly answers: boolean; readonly because?: string };
  const tryNow = async () => (await world.api<Tried>('POST', '/systems/freight-desk/try')).body;
  const still = await tryNow();
  expect(still.answers).toBe(false);
  expect(still.because).toMatch(/^Freight Desk does not answer/);
  await world.ask('freight-desk', 'PUT', '/dials', { outage: false });
  expect((await tryNow()).answers).toBe(true);
  await until('an answer', async () => (await healthOf('freight-desk'))?.standing === 'answers');
  await until('the last one', async () => (await world.runs('state=waiting')).length === 0);
  expect((await world.api('POST', '/systems/nobody/try')).status).toBe(404);
});

test('a change that happened while a system could not tell is found by catching up', async () => {
  const before = await healthOf('customer-book');
  // Nobody is told of it: the application forgets what it would send.
  await world.forgetEvents('customer-book', async () => {
    await world.changeCompany('C-1007', { phone: '01632 960 707' });
  });
  expect((await world.api('POST', '/systems/customer-book/connect')).status).toBe(202);
  await until('the phone', async () => (await phonesOf('401007')).has('+441632960707'));
  const run = await world.settled('C-1007');
  expect(await world.run(run.id)).toMatchObject({
    kind: 'updated',
    changed: ['phone'],
    source: '/vast-knot/catching-up',
  });
  await until('the note', async () => (await healthOf('customer-book'))?.caughtUpAt !== before?.caughtUpAt);
});

test('a system that was away is caught up with by itself', async () => {
  const before = await healthOf('freight-desk');
  await world.ask('freight-desk', 'PUT', '/dials', { outage: true });
  for (const company of ['C-1001', 'C-1002', 'C-1003', 'C-1004'])
    await world.changeCompany(company, { phone: '01632 960 655' });
  await until('the breaker', async () => (await healthOf('freight-desk'))?.standing === 'away');
  await world.ask('freight-desk', 'PUT', '/dials', { outage: false });
  await until('caught up', async () => (await healthOf('freight-desk'))?.caughtUpAt !== before?.caughtUpAt);
});

test('one system that hangs holds up no other', async () => {
  await world.ask('freight-desk', 'PUT', '/dials', { latencyMs: 9000 });
  for (let at = 1; at < 9; at++) await world.changeCompany(`C-100${at}`, { phone: `01632 960 80${at}` });
  const began = Date.now();
  const { body } = await world.ask<{ id: string }>('yard-planner', 'POST', '/yard/jobs', {
    title: 'While another hangs',
    state: 'planned',
    owner: 'Mara',
  });
  await world.ask('yard-planner', 'PATCH', `/yard/jobs/${body.id}`, { state: 'in yard' });
  await until('its tasks', async () => {
    const { body: tasks } = await world.ask<{ results: { jobId: string }[] }>(
      'yard-planner',
      'GET',
      '/yard/tasks?size=100',
    );
    return tasks.results.some(({ jobId }) => jobId === body.id);
  });
  expect(Date.now() - began).toBeLessThan(3000);
  await world.ask('freight-desk', 'PUT', '/dials', { latencyMs: 0 });
  await until('the breaker', async () => (await healthOf('freight-desk'))?.standing !== 'answers');
});

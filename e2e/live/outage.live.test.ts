import { until, World } from './harness';

jest.setTimeout(90_000);
let world: World;
beforeAll(async () => {
  world = await World.start({ ROLE: 'api' });
  await world.ask('freight-desk', 'PUT', '/dials', { outage: true });
  await world.ask('fleet-log', 'PUT', '/dials', { outage: true });
});
afterAll(() => world.stop());

interface Told {
  readonly title: string;
  readonly detail: string;
}

const copyVoyage = '0192f3a0-0015-7000-8000-000000000015';
const voyage = { system: 'fleet-log', recordType: 'voyage', id: 'VY-5005' };
const request = {
  ref: voyage,
  input: { first: '2026-12-07', count: 1 },
  id: '0192f3b0-0000-7000-8000-000000000001',
};
const event = {
  id: 'e1',
  source: '/customer-book',
  kind: 'updated',
  ref: { system: 'customer-book', recordType: 'company', id: 'C-1001' },
  time: '2026-03-09T09:00:00Z',
  record: { id: 'C-1001', name: 'Smokehouse', phone: '01632 960 111', address: { town: 'Murrow' } },
  before: { id: 'C-1001', name: 'Smokehouse', phone: '01632 960 100', address: { town: 'Murrow' } },
  changed: ['phone'],
};

const asks: readonly { what: string; system: string; method: string; path: string; body?: unknown }[] = [
  { what: 'a record', system: 'freight-desk', method: 'GET', path: '/records/freight-desk/booking/BK70002' },
  { what: 'a list', system: 'freight-desk', method: 'GET', path: '/records/freight-desk/booking' },
  {
    what: 'a change of a record',
    system: 'freight-desk',
    method: 'PATCH',
    path: '/records/freight-desk/booking/BK70002',
    body: { set: { title: 'x' } },
  },
  {
    what: 'the coverage of a table',
    system: 'freight-desk',
    method: 'GET',
    path: '/tables/Handling%20labels%20to%20codes/coverage',
  },
  {
    what: 'a preview of a rule',
    system: 'fleet-log',
    method: 'POST',
    path: `/rules/${copyVoyage}/preview`,
    body: request,
  },
  {
    what: 'the request of a rule',
    system: 'fleet-log',
    method: 'POST',
    path: `/rules/${copyVoyage}/requests`,
    body: { ...request, reviewed: [] },
  },
  {
    what: 'the records of a sample',
    system: 'freight-desk',
    method: 'POST',
    path: '/samples/meet',
    body: event,
  },
];

test.each(asks)('where $system does not answer, $what is refused with its name', async (ask) => {
  const { system, method, path, body } = ask;
  const answer = await world.api<Told>(method, path, body);
  expect([answer.status, answer.body.title]).toEqual([502, 'System does not answer']);
  expect(answer.body.detail).toContain(
    `${system === 'freight-desk' ? 'Freight Desk' : 'Fleet Log'} does not answer`,
  );
});

test('once it answers again, so do we', async () => {
  await world.ask('freight-desk', 'PUT', '/dials', { outage: false });
  const status = await until('the desk', async () => {
    const answer = await world.api('GET', '/records/freight-desk/booking/BK70002');
    return answer.status === 200 && answer.status;
  });
  expect(status).toBe(200);
});

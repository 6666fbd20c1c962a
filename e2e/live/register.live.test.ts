import { once } from 'node:events';
import {
  isDatabaseDraft,
  type DraftView,
  type RecordPage,
  type SystemView,
  type TriedView,
} from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(120_000);

/** A system whose only interface is its database, written by a small program of its own, and two rules, both ways. */
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

interface Call {
  readonly id: string;
  readonly vessel_code: string | null;
  readonly port_code: string;
  readonly due_on: string;
  readonly berth: string | null;
}
const calls = async (voyage: string) =>
  (
    await world.berths.query<Call>(
      'SELECT id, vessel_code, port_code, due_on::text, berth FROM call WHERE voyage_no = $1',
      [voyage],
    )
  ).rows;
const voyageOf = async (id: string) =>
  (await world.ask<Record<string, string>>('fleet-log', 'GET', `/fleet/Voyages/${id}`)).body;
const sail = async (number: string, set: Record<string, string> = {}) =>
  (
    await world.ask<{ id: string }>('fleet-log', 'POST', '/fleet/Voyages', {
      'Voyage No': number,
      Vessel: 'V-11',
      'To Port Code': 'QSHOL',
      'Sails On': '08/05/2027',
      'Status Code': 'P',
      ...set,
    })
  ).body.id;

test('a voyage becomes a row of the register, its program gives it a berth, and the berth comes back to the voyage', async () => {
  const id = await sail('9001');
  const [call] = await until('the call', async () => {
    const found = await calls('9001');
    return typeof found[0]?.berth === 'string' && found;
  });
  expect(call).toMatchObject({
    vessel_code: 'SKDA',
    port_code: 'QSHOL',
    due_on: '2027-05-08',
    berth: 'HOL-1',
  });
  const voyage = await until('the remark', async () => {
    const now = await voyageOf(id);
    return now['Remark'] !== undefined && now;
  });
  expect(voyage['Remark']).toBe('Berth: Holm Haven North Quay');
  // What we wrote comes back, and is known as ours: nothing goes round.
  await new Promise((done) => setTimeout(done, 6000));
  const runs = (await world.runs(`search=${call?.id ?? ''}&system=berth-register`)).filter(
    ({ result }) => result !== 'own write',
  );
  expect(runs.map(({ result }) => result)).toEqual(['wrote']);
});

test('a voyage that moves moves its call, whatever else was written there in between', async () => {
  const id = await sail('9002', { 'Sails On': '09/05/2027' });
  await until('the berth', async () => (await calls('9002'))[0]?.berth);
  await world.berths.query(`UPDATE call SET remark = 'pilot asked for' WHERE voyage_no = '9002'`);
  await world.ask('fleet-log', 'PATCH', `/fleet/Voyages/${id}`, { 'Sails On': '10/05/2027' });
  await until('the new day', async () => (await calls('9002'))[0]?.due_on === '2027-05-10');
  const { rows } = await world.berths.query<{ remark: string }>(
    `SELECT remark FROM call WHERE voyage_no = '9002'`,
  );
  expect(rows).toEqual([{ remark: 'pilot asked for' }]);
});

test('calls that are created while workers are killed are each there once', async () => {
  const numbers = Array.from({ length: 12 }, (_none, at) => `91${String(at).padStart(2, '0')}`);
  const worker = await world.worker();
  const sent = Promise.all(numbers.map((number) => sail(number, { 'Sails On': '01/06/2027' })));
  await new Promise((done) => setTimeout(done, 300));
  worker.kill('SIGKILL');
  await once(worker, 'exit');
  await sent;
  await until('all calls', async () => {
    const found = await Promise.all(numbers.map(calls));
    return found.every((rows) => rows.length > 0);
  });
  expect((await Promise.all(numbers.map(calls))).map((rows) => rows.length)).toEqual(numbers.map(() => 1));
});

test('what changed while a system was taken out is found when it is started again', async () => {
  const id = await sail('9300', { 'Sails On': '12/05/2027' });
  await until('the remark', async () => (await voyageOf(id))['Remark'] !== undefined);
  const out = await world.api<{ draft: string }>('DELETE', '/systems/berth-register');
  await world.berths.query(`UPDATE call SET berth = 'HOL-3' WHERE voyage_no = '9300'`);
  const path = `/connections/drafts/${out.body.draft}`;
  const { revision } = (await world.api<DraftView>('GET', path)).body;
  const started = await world.api('POST', `${path}/start`, undefined, { 'if-match': `"${revision}"` });
  expect(started.status).toBe(201);
  const moved = async () => (await voyageOf(id))['Remark'] === 'Berth: Holm Haven Ramp';
  await until('the other berth', moved);
});

test('what a trigger notes is taken at once: put in from the sheet, by a user who may', async () => {
  const owner = new URL(process.env['TEST_POSTGRES'] ?? '');
  const { body: view } = await world.api<DraftView>('POST', '/connections/drafts', {
    from: 'system',
    system: 'berth-register',
  });
  if (!isDatabaseDraft(view.draft)) throw new Error('it is no database');
  const { draft } = view;
  const call = draft.connection.recordTypes['call'];
  if (!call) throw new Error('it has no calls');
  const changed = {
    ...draft,
    connection: {
      ...draft.connection,
      user: owner.username,
      recordTypes: { ...draft.connection.recordTypes, call: { ...call, listening: { noted: true } } },
    },
  };
  const secret = { value: decodeURIComponent(owner.password) };
  await world.api('PUT', `/connections/drafts/${view.id}/secrets/token`, secret);
  const path = `/connections/drafts/${view.id}`;
  const tried = await world.api<TriedView>('POST', `${path}/try`, {
    draft: changed,
    asked: { what: 'note', type: 'call' },
  });
  expect(tried.body).toMatchObject({ sentence: 'From now on its changes are noted.', problem: '' });
  expect(tried.body.exchanges.map(({ statement }) => statement?.split(' ')[0])).toEqual([
    'CREATE',
    'CREATE',
    'DROP',
    'CREATE',
    'GRANT',
  ]);
  const saved = await world.api<DraftView>(
    'PUT',
    path,
    { draft: changed },
    { 'if-match': `"${view.revision}"` },
  );
  const started = await world.api('POST', `${path}/start`, undefined, {
    'if-match': `"${saved.body.revision}"`,
  });
  expect(started.status).toBe(201);
  const id = await sail('9200', { 'Sails On': '11/05/2027' });
  await until('the remark', async () => (await voyageOf(id))['Remark'] !== undefined);
  const { rows } = await world.berths.query(
    `SELECT 1 FROM noted_changes WHERE of_table = 'call' AND noted_at < now() - interval '5 seconds'`,
  );
  expect(rows).toEqual([]);
});

test('the register is learnt from its catalogue, and its records are read like those of any other', async () => {
  const systems = (await world.api<SystemView[]>('GET', '/systems')).body;
  expect(systems.find(({ key }) => key === 'berth-register')).toMatchObject({ tag: 'BR' });
  const { body } = await world.api<RecordPage>('GET', '/records/berth-register/berth?search=holm');
  expect(body.records.map(({ ref }) => ref.id)).toEqual(['HOL-1', 'HOL-2', 'HOL-3']);
});

test('a system is carried to another installation in a bundle, without its address and its secrets', async () => {
  const text = JSON.stringify((await world.api('GET', '/systems/customer-book/bundle')).body);
  expect(text).not.toContain('127.0.0.1');
  const { body } = await world.api<DraftView>('POST', '/connections/drafts', { from: 'bundle', text });
  expect(body).toMatchObject({
    secrets: [],
    draft: {
      system: { key: 'customer-book-2', name: 'Customer Book' },
      connection: { kind: 'http', baseUrl: '', signIn: { kind: 'header' } },
      origin: 'From a bundle: Customer Book.',
    },
  });
  expect(body.draft.recordTypes.map(({ name }) => name)).toEqual(['company', 'person']);
  const database = JSON.stringify((await world.api('GET', '/systems/berth-register/bundle')).body);
  expect(database).not.toContain('127.0.0.1');
  const other = await world.api<DraftView>('POST', '/connections/drafts', { from: 'bundle', text: database });
  expect(other.body.draft.connection).toMatchObject({ kind: 'postgres', baseUrl: '' });
});

test.each([
  ['{', 'It is no JSON.'],
  ['{"vastKnot": 1}', 'It holds no system with how it is reached.'],
  ['{"vastKnot": 7}', /vastKnot/],
])('a bundle that holds no system is told in a sentence: %s', async (text, because) => {
  const { status, body } = await world.api<{ detail: string }>('POST', '/connections/drafts', {
    from: 'bundle',
    text,
  });
  expect([status, body.detail]).toEqual([
    422,
    typeof because === 'string' ? because : expect.stringMatching(because),
  ]);
});

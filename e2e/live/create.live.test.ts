import { once } from 'node:events';
import type { Action, RuleBody, RuleView } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(90_000);
let world: World;
beforeAll(async () => {
  // Workers are processes of their own here, so that they can be killed.
  world = await World.start({ ROLE: 'api' });
  await publish(contactForMainContact);
});
afterAll(() => world.stop());

const create: Action = {
  kind: 'create',
  alias: 'newContact',
  system: 'freight-desk',
  recordType: 'contact',
  lines: [
    { field: 'partyId', formula: 'party.id', policy: 'always' },
    { field: 'fullName', formula: 'main_contact', policy: 'always' },
  ],
};
/** A new main contact becomes a contact of the party, and the party points to it. */
const contactForMainContact: RuleBody = {
  name: 'New main contact',
  note: '',
  trigger: { system: 'customer-book', recordType: 'company', kinds: ['updated'], watched: ['main_contact'] },
  guard: 'NOT(ISBLANK(main_contact))',
  finds: [
    {
      alias: 'party',
      system: 'freight-desk',
      recordType: 'party',
      match: [{ field: 'customerNumber', is: 'equal', formula: 'id' }],
      none: 'stop',
      several: 'fail',
    },
  ],
  actions: [
    create,
    {
      kind: 'write',
      target: 'party',
      lines: [{ field: 'mainContactId', formula: 'newContact.id', policy: 'always' }],
    },
  ],
};

async function publish(body: RuleBody): Promise<void> {
  const { body: rule } = await world.api<RuleView>('POST', '/rules', body);
  const { status } = await world.api('POST', `/rules/${rule.id}/publish`, undefined, {
    'if-match': `"${rule.revision}"`,
  });
  expect(status).toBe(200);
}

const contactsNamed = async (party: string, name: string) => {
  const path = `/v2/contacts?where=partyId:eq:${party}&pageSize=500`;
  const { body } = await world.ask<{ data: Record<string, unknown>[] }>('freight-desk', 'GET', path);
  return body.data.filter(({ fullName }) => fullName === name);
};
const mainContactOf = async (party: string) =>
  (await world.ask<Record<string, unknown>>('freight-desk', 'GET', `/v2/parties/${party}`)).body[
    'mainContactId'
  ];

async function withWorker(work: () => Promise<void>): Promise<void> {
  const worker = await world.worker();
  try {
    await work();
  } finally {
    worker.kill('SIGTERM');
    await once(worker, 'exit');
  }
}

test('a record is created, the next action writes its id, and its event is known for our own', async () => {
  await withWorker(async () => {
    await world.changeCompany('C-1020', { main_contact: 'Ylva Norquoy' });
    const run = await world.settled('C-1020');
    expect([run.result, run.because]).toEqual(['wrote', '2 records written.']);
    const [contact, ...more] = await contactsNamed('401020', 'Ylva Norquoy');
    expect(more).toEqual([]);
    expect(await mainContactOf('401020')).toBe(contact?.['id']);

    const { outcome } = await world.run(run.id);
    expect(outcome.map(({ change: { ref, kind }, state }) => [ref.recordType, ref.id, kind, state])).toEqual([
      ['contact', contact?.['id'], 'create', 'written'],
      ['party', '401020', 'edit', 'written'],
    ]);
    const echo = await world.ownWrite(String(contact?.['id']));
    expect([echo.kind, echo.writes]).toEqual(['created', 0]);
  });
});

test('a system that is away gets the record once it is back, and once only', async () => {
  await withWorker(async () => {
    await world.ask('freight-desk', 'PUT', '/dials', { errorRate: 0.6 });
    await world.changeCompany('C-1021', { main_contact: 'Bram Velzian' });
    await until('a try', async () => (await world.runs('search=C-1021'))[0]?.attempts !== undefined);
    await new Promise((done) => setTimeout(done, 1500));
    await world.ask('freight-desk', 'PUT', '/dials', { errorRate: 0 });
    const run = await world.settled('C-1021');
    expect(run.result).toBe('wrote');
    const contacts = await contactsNamed('401021', 'Bram Velzian');
    expect(contacts).toHaveLength(1);
    expect(await mainContactOf('401021')).toBe(contacts[0]?.['id']);
  });
});

test('a worker that is killed in the middle of creating doubles nothing', async () => {
  await world.ask('freight-desk', 'PUT', '/dials', { latencyMs: 400 });
  const first = await world.worker();
  await world.changeCompany('C-1022', { main_contact: 'Oona Sclater' });
  await until('the record to be on its way', async () => {
    const { rows } = await world.database.query('SELECT 1 FROM flights WHERE creates');
    return rows.length > 0;
  });
  first.kill('SIGKILL');
  await once(first, 'exit');
  await world.ask('freight-desk', 'PUT', '/dials', { latencyMs: 0 });
  await withWorker(async () => {
    const run = await world.settled('C-1022');
    expect(run.result).toBe('wrote');
    const contacts = await contactsNamed('401022', 'Oona Sclater');
    expect(contacts).toHaveLength(1);
    expect(await mainContactOf('401022')).toBe(contacts[0]?.['id']);
  });
});

test('a record that cannot be created leaves what would have pointed to it as it was', async () => {
  await withWorker(async () => {
    const before = await mainContactOf('401023');
    // The desk takes names of sixty characters; ours is longer, so that the line fails and nothing is created.
    await world.changeCompany('C-1023', { main_contact: 'A'.repeat(70) });
    const run = await world.settled('C-1023');
    expect(run.because).toContain('“Full name” holds 60 characters at most');
    expect(await mainContactOf('401023')).toBe(before);
  });
});

test('a rule that waits on a record sees the id that its system gave to what the run created', async () => {
  await publish({
    name: 'Note the main contact, in a moment',
    note: '',
    trigger: {
      system: 'freight-desk',
      recordType: 'party',
      kinds: ['updated'],
      watched: ['mainContactId'],
      wait: 1,
    },
    guard: '',
    finds: [],
    actions: [
      {
        kind: 'write',
        target: 'record',
        lines: [{ field: 'deskNote', formula: '"contact " & mainContactId', policy: 'always' }],
      },
    ],
  });
  await withWorker(async () => {
    await world.changeCompany('C-1024', { main_contact: 'Runa Waits' });
    await world.settled('C-1024');
    const party = async () =>
      (await world.ask<Record<string, unknown>>('freight-desk', 'GET', '/v2/parties/401024')).body;
    await until('the note', async () => String((await party())['deskNote']).startsWith('contact '));
    const { deskNote, mainContactId } = await party();
    expect(deskNote).toBe(`contact ${String(mainContactId)}`);
    const contacts = await contactsNamed('401024', 'Runa Waits');
    expect(contacts.map(({ id }) => id)).toEqual([mainContactId]);
  });
});

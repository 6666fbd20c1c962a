import { randomUUID } from 'node:crypto';
import type {
  ArrivalRowPage,
  ArrivalView,
  MessageDetail,
  MessagePage,
  RecordView,
  RequestPreview,
  RuleView,
  WaitView,
} from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(60_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

type Doc = Record<string, unknown>;
const record = async (system: string, type: string, id: string) =>
  (await world.record(system, type, id)).record as Doc;

describe('finds', () => {
  test('an enquiry finds its party by the domain of its sender', async () => {
    const made = await world.ask<Doc>('freight-desk', 'POST', '/v2/enquiries', {
      subject: 'Ten barrels?',
      email: 'hello@holm-ropes.example',
      status: 'new',
    });
    const [party] = (
      await world.ask<{ data: Doc[] }>('freight-desk', 'GET', '/v2/parties?pageSize=500')
    ).body.data.filter(({ mailDomain }) => mailDomain !== undefined && !String(mailDomain).startsWith('@'));
    await world.ask('freight-desk', 'PATCH', `/v2/enquiries/${String(made.body['id'])}`, {
      email: `hello@${String(party?.['mailDomain'])}`,
    });
    const id = String(made.body['id']);
    await until(
      'the party',
      async () => (await record('freight-desk', 'enquiry', id))['status'] === 'matched',
    );
    expect(await record('freight-desk', 'enquiry', id)).toMatchObject({ partyId: party?.['id'] });
  });

  test('where the desk wrote an @ before the domain, the run says so', async () => {
    const [party] = (
      await world.ask<{ data: Doc[] }>('freight-desk', 'GET', '/v2/parties?pageSize=500')
    ).body.data.filter(({ mailDomain }) => String(mailDomain).startsWith('@'));
    const domain = String(party?.['mailDomain']).slice(1);
    const made = await world.ask<Doc>('freight-desk', 'POST', '/v2/enquiries', {
      subject: 'Ten barrels?',
      email: `hello@${domain}`,
    });
    const run = await world.settled(String(made.body['id']));
    expect(run).toMatchObject({ result: 'nothing' });
    const { report } = await world.run(run.id);
    const step = report?.rules[0]?.steps.find(({ kind }) => kind === 'find');
    expect(step).toMatchObject({
      found: 0,
      near: [
        expect.objectContaining({
          ref: { system: 'freight-desk', recordType: 'party', id: party?.['id'] },
          because: `“@${domain}” differs from “${domain}” by a leading @`,
        }),
      ],
    });
  });
});

test('a poor inspection puts the vessel on hold, once: a second save of it does not', async () => {
  await world.ask('fleet-log', 'PATCH', '/fleet/Inspections/IN-803', {
    'Grade Code': 'P',
    'Inspector Remark': 'Bow door seal torn.',
  });
  await until('the hold', async () => (await record('fleet-log', 'vessel', 'V-13'))['Status Code'] === 'H');
  expect(await record('fleet-log', 'vessel', 'V-13')).toMatchObject({ 'Hold Remark': 'Bow door seal torn.' });
  const first = await world.settled('IN-803');
  await world.ask('fleet-log', 'PATCH', '/fleet/Vessels/V-13', { 'Status Code': 'A' });
  await world.ask('fleet-log', 'PATCH', '/fleet/Inspections/IN-803', { 'Inspector Remark': 'Seal torn.' });
  const second = await world.settled('IN-803', first.id);
  expect(second).toMatchObject({ result: 'nothing' });
  expect(await record('fleet-log', 'vessel', 'V-13')).toMatchObject({ 'Status Code': 'A' });
});

test('a job that enters the yard gets two tasks, and points to the first by the id that its system gave', async () => {
  const before = await record('yard-planner', 'job', 'job_2');
  await world.ask('yard-planner', 'PATCH', '/yard/jobs/job_2', { state: 'in yard' });
  await until(
    'the first task',
    async () => (await record('yard-planner', 'job', 'job_2'))['firstTaskId'] !== undefined,
  );
  const { results } = (
    await world.ask<{ results: Doc[] }>('yard-planner', 'GET', '/yard/tasks?where.jobId=job_2')
  ).body;
  const code = String(before['vesselCode']);
  const wash = results.find(({ title }) => title === `Wash down ${code}`);
  const survey = results.find(({ title }) => title === `Survey ${code}`);
  expect([results.length, wash?.['owner'], survey?.['owner']]).toEqual([2, before['owner'], before['owner']]);
  expect(await record('yard-planner', 'job', 'job_2')).toMatchObject({ firstTaskId: wash?.['id'] });
});

test('a closed booking is written back to its company through its party, and only when it is closed', async () => {
  const booking = await world.booking('BK70030');
  const party = await record('freight-desk', 'party', String(booking['partyId']));
  const company = String(party['customerNumber']);
  await world.ask('freight-desk', 'PATCH', '/v2/bookings/BK70030', { status: 'confirmed' });
  await world.ask('freight-desk', 'PATCH', '/v2/bookings/BK70030', { status: 'closed' });
  await until(
    'the company',
    async () => (await record('customer-book', 'company', company))['last_shipment'] !== undefined,
  );
  expect(await record('customer-book', 'company', company)).toMatchObject({
    last_shipment: booking['collectionDate'],
  });
});

test('a vessel is tidied on save, by one rule that tells of each field', async () => {
  await world.ask('fleet-log', 'PATCH', '/fleet/Vessels/V-11', {
    'Vessel Name': ' Skerry   Dawn ',
    'Old Radio': 'CH 9',
  });
  await until(
    'the tidy',
    async () => (await record('fleet-log', 'vessel', 'V-11'))['Vessel Name'] === 'Skerry Dawn',
  );
  const vessel = await record('fleet-log', 'vessel', 'V-11');
  expect(vessel).not.toHaveProperty('Old Radio');
  expect(vessel).not.toHaveProperty('Old Call Sign');
  const run = await until('the run', async () =>
    (await world.runs('search=V-11')).find(({ ref, result }) => ref?.id === 'V-11' && result === 'wrote'),
  );
  const { report } = await world.run(run.id);
  expect(report?.rules.find(({ ruleName }) => ruleName === 'Vessel tidied on save')?.steps).toMatchObject([
    {
      kind: 'write',
      tidied: true,
      lines: expect.arrayContaining([
        expect.objectContaining({ field: 'Old Radio', because: 'The name fits Old *.' }),
        expect.objectContaining({ field: 'Vessel Name', because: 'Put in order: single spaces.' }),
      ]),
    },
  ]);
});

describe('messages', () => {
  test('a guard that becomes true sends one signed message, which the receiver verifies', async () => {
    const made = await world.ask<Doc>('customer-book', 'POST', '/api/companies', {
      name: 'Tern Cooperage',
      status: 'prospect',
      address: { town: 'Murrow' },
    });
    const id = String(made.body['id']);
    await until(
      'the account number',
      async () => (await record('customer-book', 'company', id))['account_number'],
    );
    await world.changeCompany(id, { status: 'active' });
    const message = await until('the message', async () => {
      const { messages } = (await world.api<MessagePage>('GET', `/messages?search=${id}`)).body;
      return messages.find(({ state }) => state === 'delivered');
    });
    await world.changeCompany(id, { remark: 'Still active.' });
    await world.settled(id, message.runId);
    expect((await world.api<MessagePage>('GET', `/messages?search=${id}`)).body.messages).toHaveLength(1);
    const detail = (await world.api<MessageDetail>('GET', `/messages/${message.id}`)).body;
    expect(detail.body).toMatchObject({
      specversion: '1.0',
      type: 'example.skerry.account.opened',
      subject: id,
      data: { name: 'Tern Cooperage', account: `TERN-${id.slice(2)}`, address: { town: 'Murrow' } },
    });
    expect(detail.tries).toMatchObject([{ status: 202, problem: null }]);
    const { body } = await world.ask<{ messages: Doc[] }>(
      'notice-post',
      'GET',
      `/post/messages?messageId=${message.id}`,
    );
    expect(body.messages).toMatchObject([{ about: id, signature: 'right' }]);
  });

  test('one that is not taken is tried again, and its answers are kept', async () => {
    await world.ask('notice-post', 'PUT', '/dials', { errorRate: 1 });
    const { items } = (
      await world.ask<{ items: Doc[] }>('customer-book', 'GET', '/api/companies?filter[status]=dormant')
    ).body;
    const company = String(items[0]?.['id']);
    await world.changeCompany(company, { status: 'active' });
    const waiting = await until('the first try', async () => {
      const { messages } = (await world.api<MessagePage>('GET', `/messages?search=${company}`)).body;
      return messages.find(({ attempts }) => attempts > 0);
    });
    expect(waiting).toMatchObject({ state: 'waiting', last: 'The receiver answered 500.' });
    await world.ask('notice-post', 'PUT', '/dials', { errorRate: 0 });
    await world.api('POST', `/messages/${waiting.id}/resend`);
    const detail = await until('the delivery', async () => {
      const { body } = await world.api<MessageDetail>('GET', `/messages/${waiting.id}`);
      return body.state === 'delivered' && body;
    });
    expect(detail.tries.at(0)).toMatchObject({ status: 500, problem: 'The receiver answered 500.' });
    expect(detail.tries.at(-1)).toMatchObject({ status: 202, problem: null });
    const { body } = await world.ask<{ messages: Doc[] }>(
      'notice-post',
      'GET',
      `/post/messages?messageId=${waiting.id}`,
    );
    expect(body.messages).toHaveLength(1);
  });

  test('messages about one record arrive in their order: a later one waits for the earlier one', async () => {
    const { items } = (
      await world.ask<{ items: Doc[] }>('customer-book', 'GET', '/api/companies?filter[status]=dormant')
    ).body;
    const company = String(items[0]?.['id']);
    const messagesOf = async () =>
      (await world.api<MessagePage>('GET', `/messages?search=${company}`)).body.messages;
    await world.ask('notice-post', 'PUT', '/dials', { errorRate: 1 });
    await world.changeCompany(company, { status: 'active' });
    await until('the first try', async () => (await messagesOf()).some(({ attempts }) => attempts > 0));
    await world.changeCompany(company, { status: 'dormant' });
    await world.changeCompany(company, { status: 'active' });
    const [later, earlier] = await until('the second message', async () => {
      const messages = await messagesOf();
      return messages.length === 2 && messages;
    });
    expect(later).toMatchObject({
      attempts: 0,
      last: 'Waits for an earlier message about the same record.',
    });
    await world.ask('notice-post', 'PUT', '/dials', { errorRate: 0 });
    await world.api('POST', `/messages/${earlier?.id ?? ''}/resend`);
    await until('both deliveries', async () =>
      (await messagesOf()).every(({ state }) => state === 'delivered'),
    );
    const { body } = await world.ask<{ messages: Doc[] }>(
      'notice-post',
      'GET',
      `/post/messages?about=${company}`,
    );
    const arrived = body.messages.map((each) => [each['messageId'], each['receivedAt'] ?? each['id']]);
    const ordered = [...arrived].sort(([, a], [, b]) => (String(a) < String(b) ? -1 : 1));
    expect(ordered.map(([id]) => id)).toEqual([earlier?.id, later?.id]);
  });

  test('a reader may look and not send again', async () => {
    await world.signIn('reader');
    const { messages } = (await world.api<MessagePage>('GET', '/messages')).body;
    expect((await world.api('POST', `/messages/${messages[0]?.id ?? ''}/resend`)).status).toBe(403);
    await world.signIn('admin');
  });
});

describe('a rule that a person runs', () => {
  const next = '/rules/0192f3a0-0015-7000-8000-000000000015';
  const ref = { system: 'fleet-log', recordType: 'voyage', id: 'VY-5005' };
  const asked = () => ({ ref, id: randomUUID(), input: { first: '2026-12-07', count: 2 } });

  test('shows the filled forms first, and creates nothing', async () => {
    const { body } = await world.api<RequestPreview>('POST', `${next}/preview`, asked());
    expect(body.forms.map(({ at, values }) => [at, values['Sails On'], values['Previous Voyage']])).toEqual([
      [0, '07/12/2026', 'VY-5005'],
      [1, '14/12/2026', 'VY-5005'],
    ]);
    expect((await world.api('POST', `${next}/requests`, asked())).body).toMatchObject({
      detail: 'The rule creates nothing before its forms are reviewed.',
    });
  });

  test('creates what was reviewed, with what the person changed, once', async () => {
    const request = {
      ...asked(),
      reviewed: [
        { action: 0, at: 0, values: { Remark: 'Extra sailing.' } },
        { action: 0, at: 1, values: {}, leftOut: true },
      ],
    };
    const first = await world.api<{ run: string }>('POST', `${next}/requests`, request);
    const again = await world.api<{ run: string | null }>('POST', `${next}/requests`, request);
    expect([first.status, again.body.run]).toEqual([202, null]);
    const { outcome } = await until('the run', async () => {
      const run = await world.run(first.body.run);
      return run.state === 'done' && run;
    });
    // The voyage, and its call at the berths, which follows from it.
    expect(outcome.map(({ change }) => change.ref.recordType)).toEqual(['voyage', 'call']);
    const made = await record('fleet-log', 'voyage', outcome[0]?.change.ref.id ?? '');
    const source = await record('fleet-log', 'voyage', 'VY-5005');
    expect(made).toMatchObject({
      Vessel: source['Vessel'],
      'To Port Code': source['To Port Code'],
      'Previous Voyage': 'VY-5005',
      'Sails On': '07/12/2026',
      'Status Code': 'P',
      Remark: 'Extra sailing.',
    });
  });

  test('what is not asked for, or missing, is refused with the reason', async () => {
    const { body } = await world.api<Doc>('POST', `${next}/preview`, {
      ...asked(),
      input: { first: '2026-12-07' },
    });
    expect(body['detail']).toBe('“How many, a week apart” is required and would be left blank.');
    const many = { ...asked(), input: { first: '2026-12-07', count: 7 } };
    expect((await world.api<Doc>('POST', `${next}/preview`, many)).body['detail']).toContain(
      'How many, a week apart',
    );
    const never = { ...asked(), input: { first: 'never', count: 1 } };
    expect((await world.api<Doc>('POST', `${next}/preview`, never)).body['detail']).toContain(
      'Sails first on',
    );
    const other = { ...asked(), ref: { ...ref, recordType: 'vessel' } };
    expect((await world.api('POST', `${next}/preview`, other)).status).toBe(422);
  });
});

test('rows of a file that a program sends become units, each once; what cannot be taken is kept with its reason', async () => {
  const file = [
    'Booking,Container,Seal,Weight,Goods',
    'BK70001,SKRU 123456-5,S1,"12,400",Slate',
    'BK70002,SKRU1234570,S2,800,Wool bales',
    'BK70003,SKRU1234586,S3',
    'BK99999,SKRU1234591,S4,1,Salt',
  ].join('\r\n');
  const send = async () => {
    const { status, body } = await world.send<ArrivalView>(
      'POST',
      '/inlets/inlets/manifest%20row/rows?name=agent.csv',
      file,
      'text/csv',
    );
    expect(status).toBe(202);
    return until('the look at the file', async () => {
      const view = (await world.api<ArrivalView>('GET', `/arrivals/${body.id}`)).body;
      return view.look?.state === 'done' && view;
    });
  };
  const first = await send();
  expect(first).toMatchObject({
    way: 'page',
    counts: { create: 2, change: 0, nothing: 0, cannot: 2 },
    sameAs: null,
  });
  const units = await until('two units', async () => {
    const { data } = (await world.ask<{ data: Doc[] }>('freight-desk', 'GET', '/v2/units')).body;
    // Rows are handled side by side; the units come in any order.
    return (
      data.length === 2 &&
      data.sort((a, b) => (String(a['containerNumber']) < String(b['containerNumber']) ? -1 : 1))
    );
  });
  expect(units).toMatchObject([
    {
      bookingId: 'BK70001',
      containerNumber: 'SKRU1234565',
      sealNumber: 'S1',
      grossKg: 12400,
      goods: 'Slate',
    },
    { bookingId: 'BK70002', containerNumber: 'SKRU1234570', grossKg: 800 },
  ]);
  const { rows } = (await world.api<ArrivalRowPage>('GET', `/arrivals/${first.id}/rows?standing=cannot`))
    .body;
  expect(rows.map(({ place, because }) => `${place}: ${because}`)).toEqual([
    'row 4: It has 3 cells, and there are 5 titles.',
    expect.stringContaining('row 5: No booking was found for “load”') as string,
  ]);
  // The same file again waits for a person.
  const again = await send();
  expect(again).toMatchObject({ applying: null, sameAs: { id: first.id, applied: 2 } });
  expect((await world.ask<{ data: Doc[] }>('freight-desk', 'GET', '/v2/units')).body.data).toHaveLength(2);
});

test('a signed form answer gives a booking its codes', async () => {
  const body = JSON.stringify({
    specversion: '1.0',
    id: randomUUID(),
    source: '/forms',
    type: 'skerry.form.cargo',
    subject: 'F-1',
    time: '2026-03-09T09:00:00Z',
    data: { answers: { number: 'F-1', booking: 'BK70040', care: ['Keep chilled', 'Fragile'] } },
  });
  const { status } = await world.hook('inlets', body, { 'content-type': 'application/cloudevents+json' });
  expect(status).toBe(202);
  await until('the codes', async () => (await world.booking('BK70040'))['handlingCodes'] !== undefined);
});

describe('waiting', () => {
  test('changes of one record are folded into one, and how long is waited can be seen', async () => {
    const { body: rule } = await world.api<RuleView>('POST', '/rules', {
      name: 'Remark after a pause',
      note: '',
      trigger: {
        system: 'customer-book',
        recordType: 'company',
        kinds: ['updated'],
        watched: ['remark'],
        wait: 2,
      },
      guard: '',
      finds: [],
      actions: [
        {
          kind: 'write',
          target: 'record',
          lines: [
            { field: 'main_contact', formula: '"was " & before.remark & ", is " & remark', policy: 'always' },
          ],
        },
      ],
    });
    await world.changeCompany('C-1050', { remark: 'one' });
    await world.settled('C-1050');
    await world.api('POST', `/rules/${rule.id}/publish`, undefined, { 'if-match': `"${rule.revision}"` });
    const [last] = await world.runs();
    await world.changeCompany('C-1050', { remark: 'two' });
    await world.settled('C-1050', last?.id);
    await world.changeCompany('C-1050', { remark: 'three' });
    const wait = await until('the second change', async () =>
      (await world.api<WaitView[]>('GET', '/waits')).body.find(({ folded }) => folded === 2),
    );
    expect(wait).toMatchObject({ rule: { name: 'Remark after a pause' }, ref: { id: 'C-1050' } });
    expect(new Date(wait.due).getTime() - new Date(wait.since).getTime()).toBe(2000);
    await until('the write', async () =>
      String((await record('customer-book', 'company', 'C-1050'))['main_contact']).startsWith('was'),
    );
    expect(await record('customer-book', 'company', 'C-1050')).toMatchObject({
      main_contact: 'was one, is three',
    });
    expect((await world.api<WaitView[]>('GET', '/waits')).body).toEqual([]);
    await world.api('DELETE', `/rules/${rule.id}/published`);
  });
});

describe('counterparts and removal', () => {
  const publish = async (body: unknown) => {
    const { body: rule } = await world.api<RuleView>('POST', '/rules', body);
    const { status } = await world.api('POST', `/rules/${rule.id}/publish`, undefined, {
      'if-match': `"${rule.revision}"`,
    });
    expect(status).toBe(200);
    return rule.id;
  };

  test('a company gets its party, found or created, and the pair is remembered, seen and corrected', async () => {
    const id = await publish({
      name: 'Company has a party',
      note: '',
      trigger: { system: 'customer-book', recordType: 'company', kinds: ['updated'], watched: ['remark'] },
      guard: '',
      finds: [
        {
          alias: 'party',
          system: 'freight-desk',
          recordType: 'party',
          match: [{ field: 'customerNumber', is: 'equal', formula: 'id & "-P"' }],
          none: 'create',
          several: 'fail',
          counterpart: true,
        },
      ],
      actions: [
        {
          kind: 'write',
          target: 'party',
          lines: [
            { field: 'name', formula: 'name', policy: 'always' },
            { field: 'deskNote', formula: 'remark', policy: 'always' },
          ],
        },
      ],
    });
    await world.changeCompany('C-1060', { remark: 'first' });
    const pairs = () =>
      world.api<{ records: RecordView[] }>('GET', '/records/vast-knot/counterpart?search=C-1060');
    const [pair] = await until('the pair', async () => {
      const { records } = (await pairs()).body;
      return records.length === 1 && records;
    });
    const party = String(pair?.record['b_id']);
    expect(await record('freight-desk', 'party', party)).toMatchObject({
      customerNumber: 'C-1060-P',
      deskNote: 'first',
    });

    // The pair holds although the key does not any more.
    await world.ask('freight-desk', 'PATCH', `/v2/parties/${party}`, { customerNumber: 'other' });
    await world.changeCompany('C-1060', { remark: 'second' });
    await until(
      'the write',
      async () => (await record('freight-desk', 'party', party))['deskNote'] === 'second',
    );

    // Corrected by hand, it leads to the other party.
    const corrected = await world.api(
      'PATCH',
      `/records/vast-knot/counterpart/${String(pair?.ref.id)}`,
      { set: { b_id: '401002' } },
      { 'if-match': `"${String(pair?.version)}"` },
    );
    expect(corrected.status).toBe(200);
    await world.changeCompany('C-1060', { remark: 'third' });
    await until(
      'the other party',
      async () => (await record('freight-desk', 'party', '401002'))['deskNote'] === 'third',
    );
    expect((await pairs()).body.records).toHaveLength(1);
    await world.api('DELETE', `/rules/${id}/published`);
  });

  test('a removed record is gone from its system, and the event that says so is known as our own', async () => {
    const id = await publish({
      name: 'Dormant company has no enquiries',
      note: '',
      trigger: { system: 'freight-desk', recordType: 'party', kinds: ['updated'], watched: ['onHold'] },
      guard: 'onHold',
      finds: [
        {
          alias: 'enquiry',
          system: 'freight-desk',
          recordType: 'enquiry',
          match: [{ field: 'partyId', is: 'equal', formula: 'id' }],
          none: 'stop',
          several: 'each',
        },
      ],
      actions: [{ kind: 'remove', target: 'enquiry' }],
    });
    const made = await world.ask<Doc>('freight-desk', 'POST', '/v2/enquiries', {
      subject: 'Gone soon',
      email: 'x@nowhere.example',
      partyId: '401077',
    });
    const enquiry = String(made.body['id']);
    await world.settled(enquiry);
    await world.ask('freight-desk', 'PATCH', '/v2/parties/401077', { onHold: true });
    await until(
      'the removal',
      async () => (await world.ask('freight-desk', 'GET', `/v2/enquiries/${enquiry}`)).status === 404,
    );
    const own = await until('its event', async () =>
      (await world.runs(`search=${enquiry}`)).find(
        ({ kind, state }) => kind === 'deleted' && state !== 'waiting',
      ),
    );
    expect(own).toMatchObject({ result: 'own write' });
    await world.api('DELETE', `/rules/${id}/published`);
  });
});

test('rules run in the order that is set', async () => {
  const ids = (await world.api<RuleView[]>('GET', '/rules')).body.map(({ id }) => id);
  const turned = [...ids.slice(1), ids[0]];
  expect((await world.api('PUT', '/rules/order', { ids: turned, was: ids })).status).toBe(200);
  expect((await world.api<RuleView[]>('GET', '/rules')).body.map(({ id }) => id)).toEqual(turned);
  // Whoever has not seen that is told, and changes nothing.
  const second = await world.api<{ detail: string }>('PUT', '/rules/order', { ids, was: ids });
  expect([second.status, second.body.detail]).toEqual([412, expect.stringContaining('Somebody else')]);
  // Of two who do it at the same time one does.
  const both = await Promise.all([1, 2].map(() => world.api('PUT', '/rules/order', { ids, was: turned })));
  expect(both.map(({ status }) => status).sort()).toEqual([200, 412]);
  expect((await world.api<RuleView[]>('GET', '/rules')).body.map(({ id }) => id)).toEqual(ids);
});

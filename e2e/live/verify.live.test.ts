import type {
  HistoryView,
  Sample,
  TimelineEntry,
  ValueSearch,
  VerifiedRecord,
  RuleView,
} from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(90_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

const company = 'C-1001';
const booking = 'BK70002';

async function change(phone: string): Promise<string> {
  const [last] = await world.runs(`search=${company}`);
  await world.changeCompany(company, { phone });
  return (await world.settled(company, last?.id ?? '0')).id;
}

describe('what a run wrote', () => {
  test('is read back: it holds, then it changed since by a later run, then by somebody in the system', async () => {
    const verified = async (run: string) => {
      const { body } = await world.api<VerifiedRecord[]>('GET', `/runs/${run}/verify`);
      return body.find(({ ref }) => ref.id === booking)?.fields.find(({ path }) => path === 'contactPhone');
    };
    const first = await change('01632 960 501');
    expect(await verified(first)).toEqual({
      path: 'contactPhone',
      written: '+441632960501',
      now: '+441632960501',
      standing: 'holds',
      by: null,
    });
    const second = await change('01632 960 502');
    expect(await verified(first)).toMatchObject({
      standing: 'changed since',
      by: { run: second, who: 'Company phone and town to open bookings' },
    });
    await world.ask('freight-desk', 'PATCH', `/v2/bookings/${booking}`, { contactPhone: '+441632960599' });
    const foreign = await until('the run of the change', async () =>
      (await world.runs(`search=${booking}`)).find(({ changed }) => changed.includes('contactPhone')),
    );
    expect(await verified(second)).toMatchObject({
      standing: 'changed since',
      now: '+441632960599',
      by: { run: foreign.id, who: 'somebody in freight-desk' },
    });
    expect(await verified(first)).toMatchObject({ by: { run: foreign.id } });
  });

  test('stands in the timeline of its record, with rule, version, line and the record it came from', async () => {
    const { body } = await world.api<TimelineEntry[]>(
      'GET',
      `/records/freight-desk/booking/${booking}/timeline`,
    );
    const writes = body.filter((entry) => entry.kind === 'write');
    expect(writes[0]).toMatchObject({
      rules: [{ name: 'Company phone and town to open bookings', version: 1 }],
      source: { system: 'customer-book', recordType: 'company', id: company },
      edits: [
        {
          path: 'contactPhone',
          before: '+441632960501',
          after: '+441632960502',
          formula: 'PHONE(phone, address.country)',
        },
      ],
    });
    const told = body.find((entry) => entry.kind === 'event' && !entry.own);
    expect(told).toMatchObject({ event: 'updated', changed: ['contactPhone'] });
  });
});

test('a payload runs again, live: its rules write, as they are published now, what the record holds now', async () => {
  const first = await change('01632 960 511');
  await change('01632 960 512');
  expect((await world.booking(booking)).contactPhone).toBe('+441632960512');
  await world.ask('freight-desk', 'PATCH', `/v2/bookings/${booking}`, { contactPhone: '+441632960599' });
  const { status, body } = await world.api<{ runs: string[] }>('POST', `/runs/${first}/again`);
  expect([status, body.runs.length]).toEqual([202, 2]);
  // What somebody wrote into the booking meanwhile goes; the value from before does not come back.
  const again = await until('the run', async () => {
    const run = await world.run(body.runs[0] ?? '');
    return run.state === 'done' && run;
  });
  expect(again).toMatchObject({ result: 'wrote', changed: ['phone'] });
  expect((await world.booking(booking)).contactPhone).toBe('+441632960512');
  expect((await world.api('POST', '/runs/999999999/again')).status).toBe(404);
});

test('a value is found in every system, as it stands and written another way', async () => {
  const run = await change('01632 960 503');
  expect(run).not.toBe('');
  const { body } = await world.api<ValueSearch>('GET', `/values?text=${encodeURIComponent('01632 960 503')}`);
  expect(body.places).toContainEqual(
    expect.objectContaining({
      ref: { system: 'customer-book', recordType: 'company', id: company },
      match: 'exact',
    }),
  );
  expect(body.places).toContainEqual(
    expect.objectContaining({
      ref: { system: 'freight-desk', recordType: 'booking', id: booking },
      path: 'contactPhone',
      match: 'normalised',
    }),
  );
  expect(body.looked).toBeGreaterThan(1000);
});

test('a system that does not answer is named, and the others are looked through', async () => {
  await world.ask('fleet-log', 'PUT', '/dials', { outage: true });
  const { body } = await world.api<ValueSearch>('GET', '/values?text=QSNOR');
  await world.ask('fleet-log', 'PUT', '/dials', { outage: false });
  expect(body.notes.join(' ')).toContain('Fleet Log does not answer');
  expect(body.places.length).toBeGreaterThan(0);
});

describe('samples', () => {
  test('one taken from a run expects the outcome of the run; what is expected can be said anew and forgotten', async () => {
    const run = await change('01632 960 504');
    const { body: made } = await world.api<{ id: string }>('POST', '/samples', { run, name: 'Rings 504' });
    const read = async () => (await world.api<Sample>('GET', `/samples/${made.id}`)).body;
    const { expected } = await read();
    expect(expected?.records.find(({ key }) => key.endsWith(booking))?.fields).toEqual({
      contactPhone: { is: 'equal', value: '+441632960504' },
    });
    const nothing = { records: [], messages: [], problems: [] };
    expect(
      (
        await world.api('PATCH', `/samples/${made.id}`, {
          expected: nothing,
          tags: ['phones'],
          was: { expected, tags: [] },
        })
      ).status,
    ).toBe(204);
    expect(await read()).toMatchObject({ expected: nothing, tags: ['phones'] });
    await world.api('PATCH', `/samples/${made.id}`, { expected: null, was: { expected: nothing } });
    expect((await read()).expected).toBeUndefined();
  });

  test('a written one is refused with its place when it has what no sample has', async () => {
    const { body: samples } = await world.api<Sample[]>('GET', '/samples/whole');
    const { id: _id, ...sample } = samples[0] as Sample;
    expect((await world.api('POST', '/samples', { ...sample, name: 'Written by hand' })).status).toBe(201);
    const wrong = { ...sample, event: { ...sample.event, kind: 'sneezed' } };
    expect(await world.api('POST', '/samples', wrong)).toMatchObject({
      status: 422,
      body: { errors: [{ at: 'event/kind' }] },
    });
  });

  test('a reader may not say what is expected', async () => {
    const { body: samples } = await world.api<Sample[]>('GET', '/samples/whole');
    await world.signIn('reader');
    const answer = await world.api('PATCH', `/samples/${samples[0]?.id ?? ''}`, { expected: null });
    await world.signIn('admin');
    expect(answer.status).toBe(403);
  });
});

describe('the past', () => {
  const wait = (id: string) =>
    until('the comparison', async () => {
      const { body } = await world.api<HistoryView>('GET', `/history/${id}`);
      const { state } = body.job;
      return state !== 'waiting' && state !== 'at work' && body;
    });

  test('through the rules as edited: only what differs is told, with counts', async () => {
    const { body: rule } = await world.api<RuleView>('GET', '/rules/0192f3a0-0001-7000-8000-000000000001');
    const { draft } = rule;
    const [write, ...others] = draft.actions;
    if (write?.kind !== 'write') throw new Error('the rule writes');
    const lines = write.lines.map((line) =>
      line.field === 'contactPhone' ? { ...line, formula: '"none"' } : line,
    );
    const edited = { ...draft, actions: [{ ...write, lines }, ...others] };
    const saved = await world.api<RuleView>('PUT', `/rules/${rule.id}/draft`, edited, {
      'if-match': `"${rule.revision}"`,
    });
    expect(saved.status).toBe(200);
    const { body: started } = await world.api<{ id: string }>('POST', '/history', { events: 500 });
    const done = await wait(started.id);
    expect(done).toMatchObject({ job: { state: 'done', problem: null } });
    const phones = done.groups.find(
      ({ about, path }) => about === 'freight-desk/booking' && path === 'contactPhone',
    );
    expect(phones).toMatchObject({ kind: 'another value' });
    expect(phones?.count).toBeGreaterThanOrEqual(8);
    expect(phones?.examples[0]).toMatchObject({ now: '+441632960504', then: 'none' });
  });

  test('a comparison that is stopped says so, and one that nobody knows is not found', async () => {
    const { body: started } = await world.api<{ id: string }>('POST', '/history', { events: 50_000 });
    await world.api('POST', `/jobs/${started.id}/cancel`);
    expect(['cancelled', 'done']).toContain((await wait(started.id)).job.state);
    expect((await world.api('GET', '/history/nobody')).status).toBe(404);
  });
});

import type { EarlierVersion, HeardEvent, RuleView, Sample, StoredRecord } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(90_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

interface Problem {
  readonly status: number;
  readonly title: string;
  readonly detail: string;
}

const company = 'C-1006';
const change = async (changes: Record<string, unknown>): Promise<string> => {
  const [last] = await world.runs(`search=${company}`);
  await world.changeCompany(company, changes);
  return (await world.settled(company, last?.id ?? '0')).id;
};
const sampleOf = async (id: string) => (await world.api<Sample>('GET', `/samples/${id}`)).body;
const take = async (body: object) => {
  const { status, body: made } = await world.api<{ id: string }>('POST', '/samples', body);
  expect(status).toBe(201);
  return made.id;
};
const phonesIn = ({ event, records, expected }: Sample) =>
  [...JSON.stringify([event, records, expected]).matchAll(/01632 960 \d{3}/g)].map(([phone]) => phone);

describe('the last event that would start a rule', () => {
  const last = async (query: string) =>
    (
      await world.api<{ run: string | null }>(
        'GET',
        `/samples/last?system=customer-book&recordType=company${query}`,
      )
    ).body.run;

  test('is the newest of its kinds in which a watched field changed, as a whole or within', async () => {
    const phone = await change({ phone: '01632 960 611' });
    const town = await change({
      address: { street: '1 Salt Quay', postcode: 'QS1 1AA', town: 'Tarn Quay', country: 'GB' },
    });
    expect(await last('&kinds=updated&watched=phone')).toBe(phone);
    expect(await last('&kinds=created,updated&watched=address')).toBe(town);
    expect(await last('&kinds=updated&watched=address.town,phone')).toBe(town);
    expect(await last('&kinds=updated')).toBe(town);
    expect(await last('&kinds=updated&watched=credit_limit')).toBeNull();
    expect(await last('&kinds=deleted')).toBeNull();
  });
});

describe('listening', () => {
  const heard = async (query: string) =>
    (await world.api<HeardEvent>('GET', `/samples/heard?system=customer-book&recordType=company${query}`))
      .body;

  test('begins where the inbox stands, and hears the first event of its kind that was dealt with', async () => {
    await change({ phone: '01632 960 601' });
    const { after, run } = await heard('');
    expect(run).toBeNull();
    expect(await heard(`&after=${after}&kind=updated`)).toEqual({ after, run: null });
    const first = await change({ phone: '01632 960 602' });
    await change({ phone: '01632 960 603' });
    expect(await heard(`&after=${after}&kind=updated`)).toEqual({ after, run: first });
    expect(await heard(`&after=${after}`)).toEqual({ after, run: first });
  });

  test('passes over other kinds, other types, and our own writes that come back', async () => {
    const { after } = await heard('');
    await change({ phone: '01632 960 604' });
    expect((await heard(`&after=${after}&kind=deleted`)).run).toBeNull();
    await until(
      'our own write to come back',
      async () => (await world.runs('result=own%20write')).length > 0,
    );
    const { body } = await world.api<HeardEvent>(
      'GET',
      `/samples/heard?system=freight-desk&recordType=booking&after=${after}`,
    );
    expect(body.run).toBeNull();
  });

  test.each([
    ['system=customer-book', '"recordType" is required'],
    ['system=customer-book&recordType=company&kind=sneezed', '"kind" must be one of'],
    [
      'system=customer-book&recordType=company&after=yesterday',
      '"after" with value "yesterday" fails to match',
    ],
  ])('%s is refused by name', async (query, detail) => {
    const { status, body } = await world.api<Problem>('GET', `/samples/heard?${query}`);
    expect(status).toBe(422);
    expect(body.detail).toContain(detail);
  });
});

describe('masking', () => {
  test('a sample that is taken masked never holds the real values, and holds what is expected all the same', async () => {
    const run = await change({ phone: '01632 960 611' });
    const plain = await sampleOf(await take({ run, name: 'Plain' }));
    const masked = await sampleOf(await take({ run, name: 'Masked', masked: true }));
    expect(plain.masked).toBeUndefined();
    expect(phonesIn(plain)).toContain('01632 960 611');
    expect(masked.masked).toContain('customer-book/company/phone');
    expect(phonesIn(masked)).not.toContain('01632 960 611');
    expect(phonesIn(masked)).toHaveLength(phonesIn(plain).length);
    expect(masked.expected?.records.map(({ key }) => key)).toEqual(
      plain.expected?.records.map(({ key }) => key),
    );
  });

  test('one that is masked later cannot be unmasked by what it is freshened with', async () => {
    const run = await change({ phone: '01632 960 612' });
    const id = await take({ run, name: 'Later' });
    const { event, records, expected } = await sampleOf(id);
    expect((await world.api('PATCH', `/samples/${id}`, { masked: true })).status).toBe(204);
    const masked = await sampleOf(id);
    // Place by place: one number may be the mask of another.
    const plain = phonesIn({ ...masked, event, records, ...(expected && { expected }) });
    expect(phonesIn(masked)).toHaveLength(plain.length);
    phonesIn(masked).forEach((phone, at) => expect(phone).not.toBe(plain[at]));
    expect((await world.api('PATCH', `/samples/${id}`, { records })).status).toBe(204);
    expect((await sampleOf(id)).records).toEqual(masked.records);
  });

  test('“masked” can be said and not unsaid', async () => {
    const id = await take({ run: await change({ phone: '01632 960 613' }), name: 'Said' });
    const { status, body } = await world.api<Problem>('PATCH', `/samples/${id}`, { masked: false });
    expect([status, body.detail]).toEqual([422, expect.stringContaining('"masked" must be [true]')]);
  });
});

describe('what a sample is changed to', () => {
  test('its name, note and tags change, and its event stays', async () => {
    const id = await take({ run: await change({ phone: '01632 960 621' }), name: 'Before' });
    const before = await sampleOf(id);
    const { name, note, tags = [] } = before;
    const was = { name, note, tags };
    await world.api('PATCH', `/samples/${id}`, { name: 'After', note: 'why', tags: ['quarry'], was });
    expect(await sampleOf(id)).toEqual({ ...before, name: 'After', note: 'why', tags: ['quarry'] });
  });

  test('who comes second is told who was first, and what that one made of it stays', async () => {
    const id = await take({ run: await change({ phone: '01632 960 624' }), name: 'Twice' });
    const { note, expected } = await sampleOf(id);
    const say = (said: object) => world.api<Problem>('PATCH', `/samples/${id}`, said);
    expect((await say({ note: 'first', was: { note } })).status).toBe(204);
    const second = await say({ note: 'second', was: { note } });
    expect([second.status, second.body.detail]).toEqual([
      412,
      'admin changed the note of this sample meanwhile.',
    ]);
    expect((await sampleOf(id)).note).toBe('first');
    // What nobody else changed is taken all the same.
    expect((await say({ expected: null, was: { expected } })).status).toBe(204);
    expect((await say({ name: 'Without saying' })).status).toBe(428);
  });

  test('its records are taken as they are given', async () => {
    const id = await take({ run: await change({ phone: '01632 960 622' }), name: 'Fresh' });
    const records: readonly StoredRecord[] = [
      { ref: { system: 'customer-book', recordType: 'company', id: company }, record: { id: company } },
    ];
    await world.api('PATCH', `/samples/${id}`, { records });
    expect((await sampleOf(id)).records).toEqual(records);
  });

  test('a change of nothing, of something unknown and of no sample are refused', async () => {
    const id = await take({ run: await change({ phone: '01632 960 623' }), name: 'Same' });
    expect((await world.api('PATCH', `/samples/${id}`, {})).status).toBe(422);
    expect((await world.api('PATCH', `/samples/${id}`, { event: {} })).status).toBe(422);
    const none = '00000000-0000-4000-8000-000000000000';
    expect((await world.api('PATCH', `/samples/${none}`, { name: 'x' })).status).toBe(404);
  });
});

describe('earlier versions of rules', () => {
  test('are told once another one runs, the latest first, with who published them', async () => {
    const versions = async () => (await world.api<EarlierVersion[]>('GET', '/rules/versions')).body;
    expect(await versions()).toEqual([]);
    const publishAs = async (name: string) => {
      const { body: rules } = await world.api<RuleView[]>('GET', '/rules');
      const rule = rules.find(({ draft }) => draft.name.startsWith('Account number'));
      if (!rule) throw new Error('the rule of the demo is there');
      const saved = await world.api<RuleView>(
        'PUT',
        `/rules/${rule.id}/draft`,
        { ...rule.draft, name },
        { 'if-match': `"${rule.revision}"` },
      );
      await world.api('POST', `/rules/${rule.id}/publish`, undefined, {
        'if-match': `"${saved.body.revision}"`,
      });
    };
    await publishAs('Account number, second');
    await publishAs('Account number, third');
    expect((await versions()).map(({ version, by, body }) => [version, by, body.name])).toEqual([
      [2, 'admin', 'Account number, second'],
      [1, expect.any(String), 'Account number of a new customer'],
    ]);
  });
});

test('a reader reads samples and changes none', async () => {
  const id = await take({ run: await change({ phone: '01632 960 631' }), name: 'Read' });
  await world.signIn('reader');
  try {
    expect((await world.api('GET', `/samples/${id}`)).status).toBe(200);
    expect((await world.api('PATCH', `/samples/${id}`, { masked: true })).status).toBe(403);
    expect((await world.api('POST', '/samples', { run: '1', name: 'x' })).status).toBe(403);
    expect((await world.api('DELETE', `/samples/${id}`)).status).toBe(403);
  } finally {
    await world.signIn('admin');
  }
});

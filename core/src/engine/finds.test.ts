import type { Find, MatchCondition } from '../model/find';
import type { Step } from './report';
import { find, line, ref, rule, run, stored, updated, write, written } from './testHarbour';

const company = updated(
  { name: ' Skerry Line', domain: 'skerry.example', size: 5 },
  { domain: 'old.example' },
);
const accounts = [
  stored('account', 'A1', { name: 'Skerry Line', mail: '@skerry.example', limit: 10, note: null }),
  stored('account', 'A2', { name: 'Holm Fish', mail: 'desk@holm.example', limit: 30, note: null }),
  stored('account', 'A3', { name: 'SKERRY STORES', mail: 'hello@Skerry.example', limit: 20, note: null }),
];
const stepOf = (steps: readonly Step[] | undefined) => steps?.find((step) => step.kind === 'find');
const look = async (match: MatchCondition[], more: Partial<Find> = {}) => {
  const finds = [{ ...find('account', 'id', 'id', more), match }];
  const body = rule([write('account', line('note', '"found"'))], { finds });
  const { rules, writes, met } = await run(company, [body], accounts);
  return {
    ...rules[0],
    found: writes.map(({ change }) => change.ref.id),
    step: stepOf(rules[0]?.steps),
    met,
  };
};

describe('conditions', () => {
  test.each<[string, MatchCondition, string[]]>([
    ['equal after a formula on our side', { field: 'name', is: 'equal', formula: 'TRIM(name)' }, ['A1']],
    [
      'equal after a formula on both sides',
      { field: 'name', as: 'LOWER(LEFT(item, 6))', is: 'equal', formula: 'LOWER(LEFT(TRIM(name), 6))' },
      ['A1', 'A3'],
    ],
    [
      'by the domain part',
      { field: 'mail', as: 'EMAILDOMAIN(item)', is: 'equal', formula: 'domain' },
      ['A3'],
    ],
    ['at least', { field: 'limit', is: 'at least', formula: 'size * 4' }, ['A2', 'A3']],
    ['at most', { field: 'limit', is: 'at most', formula: '20' }, ['A1', 'A3']],
    ['begins with', { field: 'mail', is: 'begins with', formula: '"@"' }, ['A1']],
    ['in a list', { field: 'name', is: 'in', formula: 'SPLIT("Holm Fish|Nobody", "|")' }, ['A2']],
  ])('%s', async (_name, condition, ids) => {
    expect((await look([condition])).found.sort()).toEqual(ids);
  });

  test('several conditions all have to hold, also where only one can be asked for', async () => {
    const { found, step } = await look([
      { field: 'limit', is: 'at least', formula: '10' },
      { field: 'name', is: 'equal', formula: '"Holm Fish"' },
    ]);
    expect(found).toEqual(['A2']);
    expect(step).not.toHaveProperty('compared');
  });

  test('where none can be asked for, records are compared one by one, and the report says how many', async () => {
    const { step, met } = await look([{ field: 'limit', is: 'at least', formula: '25' }]);
    expect(step).toMatchObject({ found: 1, compared: 3, records: [ref('account', 'A2')] });
    expect(
      met.filter(({ ref: { recordType } }) => recordType === 'account').map(({ ref: { id } }) => id),
    ).toEqual(['A2']);
  });

  test('the report shows both sides as they were compared', async () => {
    const condition = {
      field: 'mail',
      as: 'EMAILDOMAIN(item)',
      is: 'equal' as const,
      formula: 'UPPER(domain)',
    };
    expect((await look([condition], { none: 'go on' })).step).toMatchObject({
      conditions: [{ ...condition, values: ['SKERRY.EXAMPLE'] }],
    });
  });

  test('a blank key finds nothing, although records with a blank field are there', async () => {
    const { verdict, found } = await look([{ field: 'note', is: 'equal', formula: '""' }]);
    expect([verdict, found]).toEqual(['nothing found', []]);
  });

  test('a key that is an error fails the rule and names the condition', async () => {
    const { verdict, because } = await look([{ field: 'name', is: 'equal', formula: 'VALUE(name)' }]);
    expect(verdict).toBe('failed');
    expect(because).toContain('The condition on “name” failed');
  });
});

describe('which of those found count', () => {
  const all: MatchCondition[] = [{ field: 'limit', is: 'at least', formula: '1' }];

  test('a guard of its own leaves some out, and the report says how many', async () => {
    const { found, step } = await look(all, { where: 'AND(account.limit > 10, name <> account.name)' });
    expect(found.sort()).toEqual(['A2', 'A3']);
    expect(step).toMatchObject({ found: 2, leftOut: 1 });
  });

  test('the first by an order, either way; without one, by the id', async () => {
    const first = async (more: Partial<Find>) => (await look(all, { several: 'first', ...more })).found;
    expect(await first({ order: { field: 'limit', descending: false } })).toEqual(['A1']);
    expect(await first({ order: { field: 'limit', descending: true } })).toEqual(['A2']);
    expect(await first({})).toEqual(['A1']);
  });

  test('several where one is wanted fail, and say how many', async () => {
    expect(await look(all, { several: 'fail' })).toMatchObject({
      verdict: 'failed',
      because: '3 records were found for “account”, and one is wanted.',
    });
  });
});

describe('when none is found', () => {
  const none: MatchCondition[] = [{ field: 'name', is: 'equal', formula: '"Tern Cooperage"' }];

  test.each([
    ['stop', 'nothing found'],
    ['fail', 'failed'],
  ] as const)('%s', async (how, verdict) => {
    expect(await look(none, { none: how })).toMatchObject({
      verdict,
      because: 'No account was found for “account”.',
      found: [],
    });
  });

  test('go on with blanks: what reads it gets blank', async () => {
    const body = rule([write('record', line('status', '"x" & account.name & "y"'))], {
      finds: [{ ...find('account', 'id', 'id', { none: 'go on' }), match: none }],
    });
    expect(written((await run(company, [body], accounts)).writes)).toEqual(['company/C1 status="xy"']);
  });

  test('create: the write to it creates it, with what was looked for', async () => {
    const body = rule([write('account', line('mail', '"hello@" & domain'))], {
      finds: [{ ...find('account', 'id', 'id', { none: 'create' }), match: none }],
    });
    expect(written((await run(company, [body], accounts)).writes)).toEqual([
      'create account name="Tern Cooperage" mail="hello@skerry.example"',
    ]);
  });

  test('create and write are one rule: where it is found it is written, and nothing is created', async () => {
    const body = rule([write('account', line('mail', '"hello@" & domain'))], {
      finds: [find('account', 'name', 'TRIM(name)', { none: 'create' })],
    });
    expect(written((await run(company, [body], accounts)).writes)).toEqual([
      'account/A1 mail="hello@skerry.example"',
    ]);
  });

  test('the id of what was created is known to later actions', async () => {
    const body = rule(
      [write('account', line('note', '"new"')), write('record', line('code', 'account.id'))],
      {
        finds: [{ ...find('account', 'id', 'id', { none: 'create' }), match: none }],
      },
    );
    const { writes } = await run(company, [body], accounts);
    const made = writes.find(({ change }) => change.kind === 'create');
    const edit = writes.find(({ change }) => change.kind === 'edit');
    expect(edit?.change).toMatchObject({ edits: [{ path: 'code', after: made?.change.ref.id }] });
  });
});

describe('near misses', () => {
  test('a leading @ is named, and comparing as it says finds the record', async () => {
    const condition = { field: 'mail', is: 'equal' as const, formula: 'domain' };
    const { step, because } = await look([condition]);
    const [miss] = step?.near ?? [];
    expect(miss).toMatchObject({
      ref: ref('account', 'A1'),
      name: 'Skerry Line',
      held: '@skerry.example',
      wanted: 'skerry.example',
      because: '“@skerry.example” differs from “skerry.example” by a leading @',
    });
    expect(because).toContain('the nearest: “@skerry.example” differs');
    const mended = { ...condition, ...(miss?.as !== undefined && { as: miss.as }) };
    expect((await look([mended])).found).toEqual(['A1']);
  });

  test('what was near is kept with the run, so that the mended rule finds it there', async () => {
    const { met } = await look([{ field: 'mail', is: 'equal', formula: 'domain' }]);
    expect(met.map(({ ref: { id } }) => id)).toContain('A1');
  });

  test('spaces and letters are named, and both sides are compared alike', async () => {
    const condition = { field: 'name', is: 'equal' as const, formula: '"skerry stores "' };
    const [miss] = (await look([condition])).step?.near ?? [];
    expect(miss).toMatchObject({
      ref: ref('account', 'A3'),
      because: expect.stringContaining('capital and small letters'),
    });
    const mended = { ...condition, as: miss?.as ?? '', formula: miss?.asWanted ?? '' };
    expect((await look([mended])).found).toEqual(['A3']);
  });

  test('a misspelt key is named, and is not mended by a formula', async () => {
    const [miss] = (await look([{ field: 'name', is: 'equal', formula: '"Holm Fsih"' }])).step?.near ?? [];
    expect(miss).toMatchObject({
      ref: ref('account', 'A2'),
      because: expect.stringContaining('one character'),
    });
    expect(miss).not.toHaveProperty('as');
  });

  test('only the condition that is not met is named, when the others are', async () => {
    const { step } = await look([
      { field: 'limit', is: 'equal', formula: '10' },
      { field: 'mail', is: 'equal', formula: 'domain' },
    ]);
    expect(step?.near).toMatchObject([{ condition: 1, ref: ref('account', 'A1') }]);
    expect(
      (
        await look([
          { field: 'limit', is: 'equal', formula: '11' },
          { field: 'mail', is: 'equal', formula: 'domain' },
        ])
      ).step,
    ).not.toHaveProperty('near');
  });

  test('where nothing found is nothing unusual, nothing is looked through', async () => {
    expect(
      (await look([{ field: 'mail', is: 'equal', formula: 'domain' }], { none: 'go on' })).step,
    ).not.toHaveProperty('near');
  });
});

describe('from one to many', () => {
  const people = [
    stored('person', 'P1', { name: 'Runa', company: 'C1', status: 'active', note: null }),
    stored('person', 'P2', { name: 'Bram', company: 'C1', status: 'left', note: null }),
    stored('person', 'P3', { name: 'Ansel', company: 'C9', status: 'active', note: null }),
  ];

  test('all that point to it, only active ones', async () => {
    const body = rule([write('person', line('note', 'name & "/" & person.name'))], {
      finds: [find('person', 'company', 'id', { where: 'person.status = "active"' })],
    });
    expect(written((await run(company, [body], people)).writes)).toEqual([
      'person/P1 note=" Skerry Line/Runa"',
    ]);
  });

  test('a find that starts from each found record asks once for all of them', async () => {
    const asked: unknown[] = [];
    const jobs = ['Runa', 'Bram'].map((owner, at) => stored('job', `J${at}`, { name: 'x', owner }));
    const body = rule([write('job', line('name', 'person.status'))], {
      finds: [find('person', 'company', 'id'), find('job', 'owner', 'person.name', { none: 'go on' })],
    });
    const { MemoryWorkspace } = await import('../workspace/memory');
    const { catalog } = await import('./testHarbour');
    const inner = new MemoryWorkspace(catalog, [
      { ref: company.ref, record: company.record },
      ...people,
      ...jobs,
    ]);
    const workspace = {
      get: (...given: Parameters<typeof inner.get>) => inner.get(...given),
      apply: (...given: Parameters<typeof inner.apply>) => inner.apply(...given),
      find: (search: Parameters<typeof inner.find>[0]) => {
        asked.push([search.recordType, search.conditions.map(({ values }) => values)]);
        return inner.find(search);
      },
    };
    const { writes } = await run(company, [body], [], { workspace });
    expect([...written(writes)].sort()).toEqual(['job/J0 name="active"', 'job/J1 name="left"']);
    expect(asked).toEqual([
      ['person', [['C1']]],
      ['job', [['Runa', 'Bram']]],
    ]);
  });
});

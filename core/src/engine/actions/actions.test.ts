import type { Action } from '.';
import type { TidyStep } from './tidySteps';
import { recordAfter } from '../../change/fields';
import { catalog, find, line, ref, rule, run, stored, updated, write, written } from '../testHarbour';
import { fits, replaced } from './tidied';

const company = updated(
  {
    name: 'Skerry Line',
    domain: 'skerry.example',
    status: 'open',
    size: 3,
    code: 'AB-12',
    old_phone: '1',
    old_fax: '2',
    old_id: 'k',
  },
  { status: 'new' },
);
const people = [
  stored('person', 'P1', { name: 'Runa', company: 'C1', status: 'active', note: 'old' }),
  stored('person', 'P2', { name: 'Bram', company: 'C1', status: 'left', note: null }),
];
const reached = { finds: [find('person', 'company', 'id')] };

describe('write', () => {
  test('lines read what the target holds: append, prepend, add', async () => {
    const body = rule(
      [
        write('person', line('note', 'target.note & "; " & status'), line('name', '"Dr " & target.name')),
        write('record', line('size', 'target.size + 1')),
      ],
      reached,
    );
    expect(written((await run(company, [body], people)).writes)).toEqual([
      'person/P1 name="Dr Runa" note="old; open"',
      'person/P2 name="Dr Bram" note="; open"',
      'company/C1 size=4',
    ]);
  });

  test('a condition passes records over one by one, and the report says which and why', async () => {
    const body = rule(
      [{ ...write('person', line('note', '"x"')), only: 'target.status = "active"' }],
      reached,
    );
    const { writes, rules } = await run(company, [body], people);
    expect(written(writes)).toEqual(['person/P1 note="x"']);
    expect(rules[0]?.steps).toContainEqual(
      expect.objectContaining({ kind: 'passed over', action: 0, ref: ref('person', 'P2') }),
    );
  });

  test('where the condition holds for none, the rule says so', async () => {
    const body = rule([{ ...write('person', line('note', '"x"')), only: 'FALSE' }], reached);
    expect((await run(company, [body], people)).rules[0]).toMatchObject({
      verdict: 'nothing to write',
      because: 'No action has a condition that holds.',
    });
  });
});

describe('create', () => {
  const job = (more: Partial<Extract<Action, { kind: 'create' }>> = {}): Action => ({
    kind: 'create',
    alias: 'job',
    system: 'desk',
    recordType: 'job',
    lines: [line('name', '"Berth "& item')],
    ...more,
  });

  test('one for each element of a list', async () => {
    const body = rule([job({ each: 'SPLIT(code, "-")' })]);
    expect(written((await run(company, [body])).writes)).toEqual([
      'create job name="Berth AB"',
      'create job name="Berth 12"',
    ]);
  });

  test('a stepped date: several in one sitting', async () => {
    const lines = [line('name', '"Call"'), line('day', 'DATE(2026, 3, 1 + 7 * item)')];
    const body = rule([job({ each: 'EACH(SPLIT("1 2 3", " "), VALUE(item))', lines })]);
    expect(written((await run(company, [body])).writes)).toEqual([
      'create job name="Call" day="2026-03-08"',
      'create job name="Call" day="2026-03-15"',
      'create job name="Call" day="2026-03-22"',
    ]);
  });

  test('an empty list creates nothing, and a list that is too long says so', async () => {
    expect((await run(company, [rule([job({ each: 'SPLIT("", ",")' })])])).writes).toEqual([]);
    const { rules } = await run(company, [rule([job({ each: 'SPLIT(REPT("a,", 1500), ",")' })])]);
    expect(rules[0]).toMatchObject({ verdict: 'failed', because: expect.stringContaining('at most 1000') });
  });

  test('one that fails is noted and its siblings are created', async () => {
    const lines = [line('name', 'IF(item = "12", "", item)')];
    const { writes, rules } = await run(company, [rule([job({ each: 'SPLIT(code, "-")', lines })])]);
    expect(written(writes)).toEqual(['create job name="AB"']);
    expect(rules[0]).toMatchObject({
      verdict: 'failed',
      because: expect.stringContaining('“name” is required'),
    });
  });

  test('what a person typed on review takes the place of what was computed', async () => {
    const event = {
      ...company,
      kind: 'requested' as const,
      rule: 'r0',
      reviewed: [
        { action: 0, at: 0, values: { name: 'Berth North', owner: 'Runa' } },
        { action: 0, at: 1, values: {}, leftOut: true as const },
      ],
    };
    const body = rule([job({ each: 'SPLIT(code, "-")', review: true })], {
      trigger: { system: 'book', recordType: 'company', kinds: ['requested'], watched: [] },
    });
    const { writes, rules } = await run(event, [body]);
    expect(written(writes)).toEqual(['create job name="Berth North" owner="Runa"']);
    const step = rules[0]?.steps.find(({ kind }) => kind === 'write');
    expect(step).toMatchObject({
      lines: [{ field: 'name', because: 'Typed on review.' }, { field: 'owner' }],
    });
  });
});

test('what a person typed on review has to fit its field, or the record is not created and says why', async () => {
  const copied: Action = {
    kind: 'create',
    alias: 'job',
    system: 'desk',
    recordType: 'job',
    lines: [line('name', '"x"')],
    review: true,
  };
  const body = rule([copied], {
    trigger: { system: 'book', recordType: 'company', kinds: ['requested'], watched: [] },
  });
  const reviewedAs = async (values: Record<string, string>) => {
    const reviewed = [{ action: 0, at: 0, values }];
    const { writes, rules } = await run({ ...company, kind: 'requested', rule: 'r0', reviewed }, [body]);
    return [written(writes), rules[0]?.because];
  };
  expect(await reviewedAs({ day: 'soon' })).toEqual([[], expect.stringContaining('day: ')]);
  expect(await reviewedAs({ nowhere: 'x' })).toEqual([
    [],
    expect.stringContaining('Job has no field “nowhere”'),
  ]);
  expect(await reviewedAs({ id: 'J9' })).toEqual([[], expect.stringContaining('“id” is read-only')]);
  expect(await reviewedAs({ name: '' })).toEqual([[], expect.stringContaining('“name” is required')]);
  expect(await reviewedAs({ day: '2026-03-09' })).toEqual([
    ['create job name="x" day="2026-03-09"'],
    'Writes 1 record.',
  ]);
});

describe('copy', () => {
  const copy: Action = {
    kind: 'copy',
    of: 'record',
    alias: 'next',
    system: 'book',
    recordType: 'company',
    lines: [line('name', 'name & " II"')],
  };

  test('all that can be copied, then the lines; not the id and what is read-only', async () => {
    const { writes } = await run(company, [rule([copy])]);
    expect(writes.map(recordAfter)).toEqual([
      {
        name: 'Skerry Line II',
        domain: 'skerry.example',
        status: 'open',
        size: 3,
        code: 'AB-12',
        old_phone: '1',
        old_fax: '2',
      },
    ]);
  });

  test('a found record is copied too, and the copy is known to later actions', async () => {
    const body = rule(
      [
        {
          ...copy,
          of: 'person',
          alias: 'twin',
          recordType: 'person',
          lines: [line('note', '"copy of " & person.name')],
        },
        write('person', line('note', '"copied to " & twin.name')),
      ],
      { finds: [find('person', 'company', 'id', { where: 'person.status = "active"' })] },
    );
    const { writes } = await run(company, [body], people);
    expect(written(writes)).toEqual([
      'create person name="Runa" status="active" company="C1" note="copy of Runa"',
      'person/P1 note="copied to Runa"',
    ]);
  });
});

describe('remove', () => {
  test('the found records are removed, one by one, and known to be gone', async () => {
    const body = rule([{ kind: 'remove', target: 'person', only: 'target.status = "left"' }], reached);
    const { writes, rules } = await run(company, [body], people);
    expect(written(writes)).toEqual(['remove person/P2']);
    expect(rules[0]?.steps).toContainEqual({ kind: 'remove', action: 0, ref: ref('person', 'P2') });
  });

  test('what follows from a removal follows as from any deletion', async () => {
    const remove = rule([{ kind: 'remove', target: 'person' }], {
      finds: [find('person', 'company', 'id', { where: 'person.status = "left"' })],
    });
    const gone = rule([write('company', line('status', '"one left"'))], {
      name: 'gone',
      trigger: { system: 'book', recordType: 'person', kinds: ['deleted'], watched: [] },
      finds: [find('company', 'id', 'company')],
    });
    expect(written((await run(company, [remove, gone], people)).writes)).toEqual([
      'remove person/P2',
      'company/C1 status="one left"',
    ]);
  });
});

describe('send', () => {
  const send: Action = {
    kind: 'send',
    endpoint: 'post',
    type: 'example.company.opened',
    parts: [
      { name: 'company', formula: 'name' },
      { name: 'contact.name', formula: 'person.name' },
      { name: 'size', formula: 'size' },
    ],
  };

  test('a message carries fields of the triggering and of found records, under dotted names', async () => {
    const { messages, writes } = await run(company, [rule([send], reached)], people.slice(0, 1));
    expect(writes).toEqual([]);
    expect(messages).toEqual([
      {
        id: 'new-1-e1',
        endpoint: 'post',
        type: 'example.company.opened',
        ref: ref('company', 'C1'),
        data: { company: 'Skerry Line', contact: { name: 'Runa' }, size: 3 },
        rule: { id: 'r0', name: 'rule', version: 1 },
      },
    ]);
  });

  test('a replay plans the same message under the same id', async () => {
    const twice = await Promise.all([1, 2].map(() => run(company, [rule([send], reached)], people)));
    expect(twice[0]?.messages).toEqual(twice[1]?.messages);
  });

  test('a value that is an error keeps the message back and says which', async () => {
    const broken: Action = { ...send, parts: [{ name: 'size', formula: 'VALUE(name)' }] };
    const { messages, rules } = await run(company, [rule([broken])]);
    expect(messages).toEqual([]);
    expect(rules[0]).toMatchObject({
      verdict: 'failed',
      because: expect.stringContaining('is not sent: size:'),
    });
  });
});

describe('tidy', () => {
  const tidy = (...steps: TidyStep[]) => rule([{ kind: 'tidy', target: 'record', steps }]);
  const after = async (...steps: TidyStep[]) => written((await run(company, [tidy(...steps)])).writes);

  test('fields are cleared by a pattern of their names; the id and read-only ones stay', async () => {
    expect(await after({ do: 'remove fields', pattern: 'old_*' })).toEqual([
      'company/C1 old_phone=null old_fax=null',
    ]);
  });

  test('a field is set only where it holds nothing', async () => {
    expect(await after({ do: 'set when absent', field: 'since', formula: 'DATE(2026, 1, 2)' })).toEqual([
      'company/C1 since="2026-01-02"',
    ]);
    expect(await after({ do: 'set when absent', field: 'status', formula: '"x"' })).toEqual([]);
  });

  test('characters of a code are replaced at their position', async () => {
    expect(await after({ do: 'set characters', field: 'code', position: 4, formula: '"99"' })).toEqual([
      'company/C1 code="AB-99"',
    ]);
  });

  test('steps see what those before them did, and the report tells of each', async () => {
    const steps: TidyStep[] = [
      { do: 'clean', field: 'name', how: 'upper case' },
      { do: 'set characters', field: 'name', position: 1, formula: 'LOWER(LEFT(target.name, 2))' },
    ];
    const { writes, rules } = await run(company, [tidy(...steps)]);
    expect(written(writes)).toEqual(['company/C1 name="skERRY LINE"']);
    expect(rules[0]?.steps[0]).toMatchObject({
      tidied: true,
      lines: [
        {
          field: 'name',
          before: 'Skerry Line',
          value: { json: 'SKERRY LINE' },
          because: 'Put in order: upper case.',
        },
        {
          field: 'name',
          before: 'SKERRY LINE',
          value: { json: 'skERRY LINE' },
          because: 'Position 1 of the code.',
        },
      ],
    });
  });

  test('a step that fails leaves its field alone, and the others are done', async () => {
    const { writes, rules } = await run(company, [
      tidy(
        { do: 'set when absent', field: 'since', formula: 'VALUE("x")' },
        { do: 'remove fields', pattern: 'old_f*' },
      ),
    ]);
    expect(written(writes)).toEqual(['company/C1 old_fax=null']);
    expect(rules[0]).toMatchObject({ verdict: 'failed' });
  });

  test.each([
    ['old_phone', 'old_*', true],
    ['old_phone', '*phone', true],
    ['old_phone', 'o*_*e', true],
    ['old_phone', '*', true],
    ['old_phone', 'old', false],
    ['aa', 'a*a*a', false],
    ['Old_phone', 'old_*', false],
  ])('%s fits %s: %s', (name, pattern, fit) => expect(fits(name, pattern)).toBe(fit));

  test.each([
    ['AB-12', 1, 'ZZ', 'ZZ-12'],
    ['AB', 5, 'X', 'AB  X'],
    ['A🚢B', 2, 'x', 'AxB'],
    ['', 1, 'N', 'N'],
    ['ABC', 3, 'XYZ', 'ABXYZ'],
  ])('%s with characters put at %d: %s gives %s', (text, position, put, result) =>
    expect(replaced(text, position, put)).toBe(result),
  );
});

describe('apply another rule', () => {
  const welcome = rule([write('record', line('note', '"Dear " & name'))], {
    name: 'welcome',
    trigger: { system: 'book', recordType: 'person', kinds: ['requested'], watched: [] },
    guard: 'FALSE',
  });

  test('its actions are done for each record reached, without its trigger and guard', async () => {
    const body = rule([{ kind: 'apply', rule: 'r1', target: 'person' }], reached);
    const { writes, rules } = await run(company, [body, welcome], people);
    expect(written(writes)).toEqual(['person/P1 note="Dear Runa"', 'person/P2 note="Dear Bram"']);
    expect(rules[0]?.steps).toContainEqual(
      expect.objectContaining({ kind: 'applied', action: 0, ruleName: 'welcome', records: 2 }),
    );
  });

  test('its finds start from the records reached', async () => {
    const up = rule([write('company', line('status', '"of " & name'))], {
      name: 'up',
      trigger: { system: 'book', recordType: 'person', kinds: ['updated'], watched: ['note'] },
      finds: [find('company', 'id', 'company')],
    });
    const body = rule([{ kind: 'apply', rule: 'r1', target: 'person' }], {
      finds: [find('person', 'company', 'id', { several: 'first' })],
    });
    expect(written((await run(company, [body, up], people)).writes)).toEqual(['company/C1 status="of Runa"']);
  });

  test('rules that apply each other are not compiled, and are named', () => {
    const a = rule([{ kind: 'apply', rule: 'r1', target: 'record' }], { name: 'a' });
    const b = rule([{ kind: 'apply', rule: 'r0', target: 'record' }], { name: 'b' });
    return expect(run(company, [a, b])).rejects.toThrow(/“a”|“b”/);
  });
});

describe('when something fails', () => {
  const long = line('note', 'IF(person.status = "left", VALUE(person.name), "fine")');

  test('the failing record is noted and its siblings go on', async () => {
    const { writes, rules } = await run(company, [rule([write('person', long)], reached)], people);
    expect(written(writes)).toEqual(['person/P1 note="fine"']);
    expect(rules[0]).toMatchObject({
      verdict: 'failed',
      because: expect.stringContaining('Writes 1 record; 1 line failed: note of person P2'),
    });
  });

  test('or the whole rule stops, and nothing of it is written', async () => {
    const { writes, rules } = await run(
      company,
      [rule([write('person', long)], { ...reached, onError: 'stop' })],
      people,
    );
    expect(writes).toEqual([]);
    expect(rules[0]).toMatchObject({
      verdict: 'failed',
      because: expect.stringContaining('Nothing is written, because 1 line failed'),
    });
  });

  test('a rule that stops leaves what other rules wrote as it is', async () => {
    const first = rule([write('person', line('name', 'UPPER(target.name)'))], reached);
    const stops = rule([write('person', long)], { ...reached, name: 'stops', onError: 'stop' });
    expect(written((await run(company, [first, stops], people)).writes)).toEqual([
      'person/P1 name="RUNA"',
      'person/P2 name="BRAM"',
    ]);
  });

  test('a rule that stops at errors and has none writes as any other', async () => {
    const body = rule([write('person', line('note', '"ok"'))], { ...reached, onError: 'stop' });
    expect(written((await run(company, [body], people)).writes)).toEqual([
      'person/P1 note="ok"',
      'person/P2 note="ok"',
    ]);
  });
});

describe('counterparts', () => {
  const accounts = [
    stored('account', 'A1', { name: 'Skerry Line', mail: null, note: null }),
    stored('account', 'A2', { name: 'Something else', mail: null, note: null }),
  ];
  const keep = rule([write('account', line('mail', '"hello@" & domain'))], {
    finds: [find('account', 'name', 'name', { none: 'create', several: 'fail', counterpart: true })],
  });
  const pair = stored('counterpart', '7', {
    a_system: 'book',
    a_type: 'company',
    a_id: 'C1',
    b_system: 'desk',
    b_type: 'account',
    b_id: 'A2',
  });
  const flipped = stored('counterpart', '7', {
    a_system: 'desk',
    a_type: 'account',
    a_id: 'A2',
    b_system: 'book',
    b_type: 'company',
    b_id: 'C1',
  });

  test.each([
    ['the one way', pair],
    ['the other way', flipped],
  ])('a remembered pair comes before the natural key, %s round', async (_name, known) => {
    const { writes, rules } = await run(company, [keep], [...accounts, known]);
    expect(written(writes)).toEqual(['account/A2 mail="hello@skerry.example"']);
    expect(rules[0]?.steps[0]).toMatchObject({ kind: 'find', paired: true, found: 1 });
  });

  test('without one the natural key decides, and the match is remembered', async () => {
    const { writes } = await run(company, [keep], accounts);
    expect(written(writes)).toEqual([
      'create counterpart a_system="book" a_type="company" a_id="C1" b_system="desk" b_type="account" b_id="A1"',
      'account/A1 mail="hello@skerry.example"',
    ]);
  });

  test('a record that is created for it is remembered with the id it will have', async () => {
    const { writes } = await run(company, [keep], []);
    const made = writes.find(({ change: { ref } }) => ref.recordType === 'account');
    expect(written(writes)[0]).toBe('create account name="Skerry Line" mail="hello@skerry.example"');
    const pair = writes.find(({ change: { ref } }) => ref.recordType === 'counterpart');
    expect(pair && recordAfter(pair)).toMatchObject({ b_id: made?.change.ref.id });
  });

  test('a pair whose record is gone counts for nothing', async () => {
    const { writes } = await run(company, [keep], [accounts[0] ?? pair, pair]);
    expect(written(writes)).toContain('account/A1 mail="hello@skerry.example"');
  });

  test('the pairs are records of a system of their own', () => {
    expect(catalog.recordType('vast-knot', 'counterpart')?.label).toBe('Counterpart');
  });
});

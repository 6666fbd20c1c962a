import { company, find, line, people, reached, ref, rule, run, stored, write, written } from '../testHarbour';

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

describe('a record that is created where its find finds none', () => {
  const seeking = [
    find('person', 'company', 'id'),
    find('account', 'name', 'person.status', { none: 'create', several: 'fail' }),
  ];
  const crew = (...names: string[]) =>
    names.map((name, at) => stored('person', `P${at}`, { name, company: 'C1', status: 'active' }));

  test('is one where two branches look for the same, and the second writes to it', async () => {
    const note = line('note', 'IF(ISBLANK(target.note), person.name, target.note & person.name)');
    const { writes } = await run(
      company,
      [rule([write('account', note)], { finds: seeking })],
      crew('A', 'B'),
    );
    expect(written(writes)).toEqual(['create account name="active" note="AB"']);
  });

  test('is tried by the next branch where the first could not', async () => {
    const note = line('note', 'IF(person.name = "A", VALUE("x"), person.name)');
    const { writes } = await run(
      company,
      [rule([write('account', note)], { finds: seeking })],
      crew('A', 'B'),
    );
    expect(written(writes)).toEqual([expect.stringMatching(/^create account .*note="B"/)]);
  });
});

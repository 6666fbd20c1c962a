import { company, find, line, people, reached, rule, run, stored, write, written } from './testHarbour';

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

describe('an error is never a “no”', () => {
  // The second of two people has a note that is no number.
  const persons = [
    stored('person', 'P1', { name: 'Runa', company: 'C1', status: 'active', note: '1' }),
    stored('person', 'P2', { name: 'Bram', company: 'C1', status: 'active', note: 'soon' }),
  ];
  const named = line('name', '"seen"');

  test('a condition of an action that cannot be computed is told, and counts', async () => {
    const body = rule([{ ...write('person', named), only: 'VALUE(person.note) > 0' }], reached);
    const { writes, rules } = await run(company, [body], persons);
    expect(written(writes)).toEqual(['person/P1 name="seen"']);
    expect(rules[0]).toMatchObject({
      verdict: 'failed',
      because:
        'Writes 1 record; 1 thing failed: The condition of action 1 failed: “soon” is not a number written so.',
    });
    expect(rules[0]?.steps).toContainEqual(
      expect.objectContaining({ kind: 'problem', ref: { system: 'book', recordType: 'person', id: 'P2' } }),
    );
  });

  test('it stops a rule that stops at errors', async () => {
    const actions = [{ ...write('person', named), only: 'VALUE(person.note) > 0' }];
    const { writes } = await run(company, [rule(actions, { ...reached, onError: 'stop' })], persons);
    expect(writes).toEqual([]);
  });

  test('a condition of a created record that cannot be computed is told, and it is not created', async () => {
    const job = { kind: 'create', alias: 'made', system: 'desk', recordType: 'job', lines: [named] } as const;
    const { writes, rules } = await run(company, [rule([{ ...job, only: 'VALUE(name) > 0' }])]);
    expect(writes).toEqual([]);
    expect(rules[0]).toMatchObject({
      verdict: 'failed',
      because: expect.stringContaining('condition of action 1'),
    });
  });

  test('what a find keeps by its own condition is not guessed at', async () => {
    const finds = [find('person', 'company', 'id', { where: 'VALUE(person.note) > 0' })];
    const { writes, rules } = await run(company, [rule([write('person', named)], { finds })], persons);
    expect(writes).toEqual([]);
    expect(rules[0]).toMatchObject({
      verdict: 'failed',
      because: '“person” cannot be told: its condition failed: “soon” is not a number written so.',
    });
  });

  test('an event of an unknown record type is told of', async () => {
    const event = { ...company, ref: { ...company.ref, recordType: 'ship' } };
    expect((await run(event, [])).problems).toEqual([
      'There is no record type “ship” in the system “book”: no rule can be about this event.',
    ]);
  });
});

describe('the trouble of one child is its own', () => {
  const jobOf = (more: Parameters<typeof find>[3]) => find('job', 'owner', 'person.name', more);
  const done = write('job', line('owner', '"done"'));
  const jobs = [
    stored('job', 'J1', { name: 'Wash', owner: 'Runa' }),
    stored('job', 'J3', { name: 'Load', owner: 'Ute' }),
    stored('job', 'J4', { name: 'Lift', owner: 'Ute' }),
  ];
  const three = [...people, stored('person', 'P3', { name: 'Ute', company: 'C1', status: 'active' })];
  const rules = (more: Parameters<typeof find>[3], onError: 'stop' | 'go on' = 'go on') => [
    rule([done], { finds: [...reached.finds, jobOf(more)], ...(onError === 'stop' && { onError }) }),
  ];

  test('a find that wants one and finds none or several ends its branch; the others go on', async () => {
    const report = await run(company, rules({ none: 'fail', several: 'fail' }), [...three, ...jobs]);
    expect(written(report.writes)).toEqual(['job/J1 owner="done"']);
    expect(report.rules[0]).toMatchObject({
      verdict: 'failed',
      because: 'Writes 1 record; 2 things failed: No job was found for “job”.',
    });
    expect(report.rules[0]?.steps.filter(({ kind }) => kind === 'problem')).toHaveLength(2);
  });

  test('so does a key that cannot be computed', async () => {
    const body = rule([done], {
      finds: [
        ...reached.finds,
        find('job', 'owner', 'IF(person.name = "Bram", TEXT(1, "0", 2) & VALUE("x"), person.name)'),
      ],
    });
    const report = await run(company, [body], [...three, ...jobs]);
    expect(written(report.writes)).toEqual([
      'job/J1 owner="done"',
      'job/J3 owner="done"',
      'job/J4 owner="done"',
    ]);
    expect(report.rules[0]?.because).toMatch(/1 thing failed: The condition on “owner” failed/);
  });

  test('unless the rule says stop, or no branch is left', async () => {
    const stopped = await run(company, rules({ none: 'fail' }, 'stop'), [...three, ...jobs]);
    expect(stopped.writes).toEqual([]);
    expect(stopped.rules[0]?.because).toMatch(/^Nothing is written, because 1 thing failed/);
    const none = await run(company, rules({ none: 'fail' }), three);
    expect(none.rules[0]).toMatchObject({
      verdict: 'failed',
      because: 'No job was found for “job”. 2 more failed as well.',
    });
  });
});

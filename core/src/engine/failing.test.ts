import { company, line, people, reached, rule, run, write, written } from './testHarbour';

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

import { company, line, people, reached, ref, rule, run, write, written } from '../testHarbour';

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

import { company, find, line, people, reached, rule, run, write, written } from '../testHarbour';

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

  const ladder = (steps: number, each: number) =>
    Array.from({ length: steps }, (_none, at) =>
      rule(
        at === steps - 1
          ? [write('record', line('status', '"done"'))]
          : Array.from({ length: each }, () => ({
              kind: 'apply' as const,
              rule: `r${at + 1}`,
              target: 'record',
            })),
        { name: `step ${at}` },
      ),
    );

  test('rules that each do the next one twice are refused while they are compiled, and not by what they cost', () =>
    // Forty steps of two each would be 2^40 rules.
    expect(run(company, ladder(40, 2))).rejects.toThrow(/would do what \d+ rules do.*at most 100/));

  test('a rule that does a hundred others is done', async () => {
    const { writes } = await run(company, ladder(101, 1));
    expect(written(writes)).toEqual(['company/C1 status="done"']);
    await expect(run(company, ladder(102, 1))).rejects.toThrow(/what 101 rules do/);
  });

  test('rules that apply each other are not compiled, and are named', () => {
    const a = rule([{ kind: 'apply', rule: 'r1', target: 'record' }], { name: 'a' });
    const b = rule([{ kind: 'apply', rule: 'r0', target: 'record' }], { name: 'b' });
    return expect(run(company, [a, b])).rejects.toThrow(/“a”|“b”/);
  });
});

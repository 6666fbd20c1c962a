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

  test('rules that apply each other are not compiled, and are named', () => {
    const a = rule([{ kind: 'apply', rule: 'r1', target: 'record' }], { name: 'a' });
    const b = rule([{ kind: 'apply', rule: 'r0', target: 'record' }], { name: 'b' });
    return expect(run(company, [a, b])).rejects.toThrow(/“a”|“b”/);
  });
});

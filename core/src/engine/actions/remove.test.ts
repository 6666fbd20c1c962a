import { company, find, line, people, reached, ref, rule, run, write, written } from '../testHarbour';

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

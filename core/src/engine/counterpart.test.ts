import { recordAfter } from '../change/fields';
import { catalog, company, find, line, rule, run, stored, write, written } from './testHarbour';

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

  test('a record that is created for several is remembered with each of them, once', async () => {
    const perPerson = rule([write('account', line('note', 'name'))], {
      name: 'person to account',
      trigger: { system: 'book', recordType: 'person', kinds: ['requested'], watched: [] },
      finds: [find('account', 'name', 'status', { none: 'create', several: 'fail', counterpart: true })],
    });
    const forAll = rule([{ kind: 'apply', rule: 'r1', target: 'person' }], {
      finds: [find('person', 'company', 'id')],
    });
    const crew = ['P1', 'P2', 'P3'].map((id) =>
      stored('person', id, { name: id, company: 'C1', status: 'active' }),
    );
    const { writes } = await run(company, [forAll, perPerson], crew);
    const pairs = written(writes).filter((each) => each.startsWith('create counterpart'));
    expect(written(writes).filter((each) => each.startsWith('create account'))).toHaveLength(1);
    expect(pairs.map((each) => /a_id="(\w+)"/.exec(each)?.[1])).toEqual(['P1', 'P2', 'P3']);
  });
});
